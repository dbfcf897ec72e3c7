import { hmac } from "@noble/hashes/hmac.js";
import { pbkdf2 } from "@noble/hashes/pbkdf2.js";
import { sha256, sha512 } from "@noble/hashes/sha2.js";
import { bytesToHex, concatBytes, hexToBytes, randomBytes, utf8ToBytes } from "@noble/hashes/utils.js";

const digests = { sha256, sha512 };

function digest(kind: keyof typeof digests, text: string): string {
  return bytesToHex(digests[kind](utf8ToBytes(text)));
}

console.log(digest("sha256", "fog").slice(0, 16), digest("sha512", "fog").slice(0, 16));
const mac = hmac(sha256, utf8ToBytes("key"), utf8ToBytes("tide"));
console.log(bytesToHex(mac).slice(0, 12), mac.length);
const running = sha256.create();
running.update(utf8ToBytes("a")).update(concatBytes(hexToBytes("62"), hexToBytes("63")));
console.log(bytesToHex(running.digest()).slice(0, 12), sha256.blockLen);
console.log(bytesToHex(pbkdf2(sha256, "pass", "salt", { c: 10, dkLen: 8 })), randomBytes(8).length);
