export { facade } from "sleeve";
