import { randomBytes } from 'node:crypto';

export const mintId = () => randomBytes(9).toString('base64url');
