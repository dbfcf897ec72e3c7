import semver, { SemVer } from "semver";
import { satisfies } from "semver";

function newest(versions: readonly string[]): string | null {
  return semver.maxSatisfying([...versions], "^1.2.0");
}

console.log(newest(["1.1.0", "1.4.2", "2.0.0"]), satisfies("1.3.0", ">=1.2 <2"));
const version = new SemVer("1.2.3-beta.1");
console.log(version.major, version.prerelease.join("."), version.inc("minor").version, version.compare("1.0.0"));
console.log(semver.valid("fog"), semver.gt("2.0.0", "1.9.9"), semver.diff("1.2.3", "1.3.0"));
const parsed = semver.parse("3.4.5");
console.log(parsed?.minor, semver.coerce("v2")?.version, semver.sort(["2.0.0", "1.0.0"]).join());
console.log(semver.inc("1.2.3", "prerelease", "beta"), semver.validRange("1.x", { loose: true }));
