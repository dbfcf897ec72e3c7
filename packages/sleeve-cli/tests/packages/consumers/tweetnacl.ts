import nacl from "tweetnacl";
import type { BoxKeyPair } from "tweetnacl";

const encode = (text: string) => new TextEncoder().encode(text);

function keysFrom(seed: number): BoxKeyPair {
  return nacl.box.keyPair.fromSecretKey(new Uint8Array(nacl.box.secretKeyLength).fill(seed));
}

const quay = keysFrom(1);
const bar = keysFrom(2);
const nonce = new Uint8Array(nacl.box.nonceLength);
const sealed = nacl.box(encode("fog"), nonce, bar.publicKey, quay.secretKey);
const opened = nacl.box.open(sealed, nonce, quay.publicKey, bar.secretKey);
console.log(opened && new TextDecoder().decode(opened), sealed.length);
const signer = nacl.sign.keyPair.fromSeed(new Uint8Array(32).fill(3));
const signature = nacl.sign.detached(encode("tide"), signer.secretKey);
console.log(nacl.sign.detached.verify(encode("tide"), signature, signer.publicKey));
console.log(nacl.hash(encode("x")).length, nacl.verify(nonce, nonce), nacl.randomBytes(4).length);
