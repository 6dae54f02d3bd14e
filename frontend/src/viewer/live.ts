// What a live camera shows now: rough weights and the head's pose, for the live preview.
import { create } from "zustand";

type Live = { on: boolean; weights: number[]; pose: number[]; width: number; height: number };

export const useLive = create<Live>(() => ({ on: false, weights: [], pose: [], width: 4, height: 3 }));

export const showLive = (by: Partial<Live>) => useLive.setState(by);
