import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';

const IV_BYTES = 12;
const TAG_BYTES = 16;

/** AES-256-GCM: iv, tag, ciphertext. The source's id is bound in, so a secret cannot be moved to another row. */
export function seal(key: Buffer, owner: string, secret: string): Buffer {
  const iv = randomBytes(IV_BYTES);
  const cipher = createCipheriv('aes-256-gcm', key, iv).setAAD(Buffer.from(owner));
  const body = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return Buffer.concat([iv, cipher.getAuthTag(), body]);
}

export function unseal(key: Buffer, owner: string, sealed: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, IV_BYTES)).setAAD(Buffer.from(owner));
  decipher.setAuthTag(sealed.subarray(IV_BYTES, IV_BYTES + TAG_BYTES));
  return Buffer.concat([decipher.update(sealed.subarray(IV_BYTES + TAG_BYTES)), decipher.final()]).toString('utf8');
}
