import "./empty.mjs";
