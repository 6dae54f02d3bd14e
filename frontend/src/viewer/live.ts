// What a live camera shows now: rough weights and the head's pose, for the live preview.
import { create } from "zustand";

/** The production's character as the live picture moves it. */
export type Driven = { source: string; targets: string[]; weights: number[]; still: [string, string][]; joints: string[]; motion: number[] };
type Live = { on: boolean; weights: number[]; pose: number[]; driven: Driven | null; width: number; height: number };

export const useLive = create<Live>(() => ({ on: false, weights: [], pose: [], driven: null, width: 4, height: 3 }));

export const showLive = (by: Partial<Live>) => useLive.setState(by);
