/** With Vitest 3.2 or 4: each check is a test. Run `vitest`. */
import { conforms } from "sleeve/vitest";
import { depths, implementations } from "./depths.mjs";

conforms(depths, implementations);
