/** This moment in microseconds of UTC, as values are bound with it. */
export const nowMicros = (): bigint => BigInt(Date.now()) * 1_000n;
