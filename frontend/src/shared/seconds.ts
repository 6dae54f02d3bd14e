// Exact seconds as the server writes them: "12" or "1001/24000". Pure.
type Fraction = { over: bigint; under: bigint };

const gcd = (a: bigint, b: bigint): bigint => (b ? gcd(b, a % b) : a < 0n ? -a : a);

function parsed(text: string): Fraction {
  const [over, under] = text.split("/");
  return { over: BigInt(over!), under: BigInt(under ?? "1") };
}

function written({ over, under }: Fraction): string {
  const by = gcd(over, under) || 1n;
  return under / by === 1n ? String(over / by) : `${over / by}/${under / by}`;
}

export const toNumber = (text: string): number => {
  const { over, under } = parsed(text);
  return Number(over) / Number(under);
};

export function sum(a: string, b: string): string {
  const [x, y] = [parsed(a), parsed(b)];
  return written({ over: x.over * y.under + y.over * x.under, under: x.under * y.under });
}

export function product(a: string, b: string): string {
  const [x, y] = [parsed(a), parsed(b)];
  return written({ over: x.over * y.over, under: x.under * y.under });
}

export const quotient = (a: string, b: string): string => {
  const { over, under } = parsed(b);
  return product(a, over < 0n ? written({ over: -under, under: -over }) : written({ over: under, under: over }));
};

/** Frames at a rate ("24000/1001") as seconds; parts of a frame to a thousandth. */
export function secondsOf(frames: number, rate: string): string {
  return quotient(written({ over: BigInt(Math.round(frames * 1000)), under: 1000n }), rate);
}

/** Seconds as frames at a rate, not rounded but for what floating point leaves. */
export const framesOf = (seconds: string, rate: string): number => toNumber(product(seconds, rate));

/** A number that somebody gave, to a thousandth. */
export const exact = (value: number): string => written({ over: BigInt(Math.round(value * 1000)), under: 1000n });
