export { heldAgainst, saidInstead } from './instead';
export { sayText } from './say-text';
export type { SaidText, StaysSql, TextToSay } from './say-text';
