import { CORPUS } from "./corpus.ts";
import { testPackages } from "./test-packages.ts";

testPackages(
  "part-2",
  CORPUS.filter((_, index) => index % 2 === 1),
);
