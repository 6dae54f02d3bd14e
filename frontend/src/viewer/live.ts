// What a live camera shows now: rough weights and the head's pose, for the live preview.
import { create } from "zustand";

/** The production's character as the live picture moves it. */
export type Driven = {
  source: string;
  targets: string[];
  weights: number[];
  still: [string, string][];
  joints: string[];
  motion: number[];
  shifted: string[];
  shifts: number[];
};
type Live = { on: boolean; weights: number[]; pose: number[]; driven: Driven | null; width: number; height: number };

export const useLive = create<Live>(() => ({ on: false, weights: [], pose: [], driven: null, width: 4, height: 3 }));

export const showLive = (by: Partial<Live>) => useLive.setState(by);

const CALM = 0.6; // share of a new look that is taken at once

/** Weights on their way from what was shown to a new look. Pure. */
export const calmed = (shown: number[], look: number[]): number[] =>
  look.map((w, i) => w * CALM + (shown[i] ?? w) * (1 - CALM));
