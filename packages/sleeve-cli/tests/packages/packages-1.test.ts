import { TESTED } from "./corpus.ts";
import { testPackages } from "./test-packages.ts";

testPackages(
  "part-1",
  TESTED.filter((_, index) => index % 2 === 0),
);
