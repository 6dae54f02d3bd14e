// What a live camera shows now: rough weights and the head's pose, for the live preview.
import { create } from "zustand";

/** The production's character as the live picture moves it. */
export type Driven = {
  /** Whose: of a feed the number of its sender, of a camera "". */
  of: string;
  called: string;
  source: string;
  targets: string[];
  weights: ArrayLike<number>;
  still: [string, string][];
  joints: string[];
  motion: ArrayLike<number>;
  shifted: string[];
  shifts: ArrayLike<number>;
  /** Milliseconds since 1970 when a packet of a feed came that says so. */
  heard?: number;
};
/** calms: looks come so seldom that what is shown goes from one to the next. */
type Live = {
  on: boolean;
  weights: number[];
  pose: number[];
  driven: Driven[];
  calms: boolean;
  width: number;
  height: number;
};

export const useLive = create<Live>(() => ({
  on: false,
  weights: [],
  pose: [],
  driven: [],
  calms: true,
  width: 4,
  height: 3,
}));

export const showLive = (by: Partial<Live>) => useLive.setState(by);

/** Nothing is live. */
export const endLive = () => showLive({ on: false, driven: [], weights: [], pose: [] });

/** What moves with a new look at one of them; those that are not among `kept` are gone. Pure. */
export const withDriven = (before: Driven[], one: Driven, kept: string[]): Driven[] => [
  ...kept.flatMap((of) => (of === one.of ? [one] : before.filter((d) => d.of === of))),
];

const CALM = 0.6; // share of a new look that is taken at once

/** Weights on their way from what was shown to a new look. Pure. */
export const calmed = (shown: number[], look: ArrayLike<number>): number[] =>
  Array.from(look, (w, i) => w * CALM + (shown[i] ?? w) * (1 - CALM));

const KEPT = 600;

/** How late frames of a feed are when their character is posed: the middle and the 95th of a hundred, in milliseconds. */
export class Lateness {
  private readonly late: number[] = [];
  private last = 0;

  /** A frame that came at this moment is posed now. */
  note(heard: number, now: number) {
    if (heard === this.last) return;
    this.last = heard;
    this.late.push(now - heard);
    if (this.late.length > KEPT) this.late.shift();
  }

  /** [how many, middle, 95th of a hundred]. */
  said(): [number, number, number] {
    const sorted = [...this.late].sort((a, b) => a - b);
    const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0;
    return [sorted.length, at(0.5), at(0.95)];
  }
}
