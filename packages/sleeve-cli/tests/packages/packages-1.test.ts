import { CORPUS } from "./corpus.ts";
import { testPackages } from "./test-packages.ts";

testPackages(
  "part-1",
  CORPUS.filter((_, index) => index % 2 === 0),
);
