import jwt, { type JwtPayload, type SignOptions } from "jsonwebtoken";

const key = "made-up-key";

function pass(officer: string, options: SignOptions): string {
  return jwt.sign({ officer, may: ["book"] }, key, options);
}

function officerOf(token: string): string {
  const payload = jwt.verify(token, key, { algorithms: ["HS256"], audience: "office" }) as JwtPayload;
  return `${payload["officer"]} ${payload.aud}`;
}

const token = pass("Ines", { audience: "office", expiresIn: "1h", noTimestamp: false });
console.log(officerOf(token));
for (const bad of [`${token}x`, pass("Otis", { audience: "office", expiresIn: -10 }), pass("Una", { audience: "quay" })]) {
  try {
    officerOf(bad);
  } catch (error) {
    if (error instanceof jwt.TokenExpiredError) console.log("expired", error.expiredAt instanceof Date);
    else if (error instanceof jwt.JsonWebTokenError) console.log(error.message);
  }
}
const decoded = jwt.decode(token, { complete: true });
console.log(decoded?.header.alg, typeof decoded?.payload);
