// Something tried but not kept: played in a loop, once as it is and once as it would be.
import { create } from "zustand";
import { api, Problem, type Overrides, type Part } from "../api/client";
import { notify } from "../app/notices";
import { clock, type Span } from "../playback/clock";
import { assembled, type Body, type Curves } from "./assemble";
import { useWorkspace } from "./workspace";

type Shown = { curves: Curves; body: Body | null };
type Trial = { name: string | null; showing: "before" | "after" };

export const useTrial = create<Trial>(() => ({ name: null, showing: "after" }));

const PARTS: Part[] = ["tidied", "weights", "head"];
const AROUND = 0.5; // seconds to either side that are played
let stop: (() => void) | null = null;
let newest = 0;

/** Plays frames of the take before and after in turn, until it is stopped or something is changed. */
export async function tryOut(name: string, overrides: Overrides, span: Span | null) {
  stopTrial();
  const mine = ++newest;
  const { opened, curves, body } = useWorkspace.getState();
  if (!opened || !curves) return;
  try {
    const made = await api.evaluate(opened.take.id, PARTS, overrides);
    const here = useWorkspace.getState();
    if (mine !== newest || here.curves !== curves) return;
    const before: Shown = { curves, body };
    const after: Shown = assembled(before, made);
    const show = (which: "before" | "after") => {
      useTrial.setState({ name, showing: which });
      useWorkspace.setState((s) => ({ ...(which === "before" ? before : after), revision: s.revision + 1 }));
    };
    const was = { range: clock.range, looping: clock.looping, playing: clock.playing };
    if (span) {
      const beside = Math.round(AROUND * clock.fps);
      clock.setRange({ from: Math.max(0, span.from - beside), to: Math.min(clock.frames - 1, span.to + beside) });
      clock.setLooping(true);
    }
    show("after");
    const off = [
      clock.onLoop(() => show(useTrial.getState().showing === "after" ? "before" : "after")),
      // A change of the take, or another take, ends it: what is shown then is what is stored.
      useWorkspace.subscribe((s) => {
        if (s.curves !== before.curves && s.curves !== after.curves) end(false);
      }),
    ];
    const end = (back: boolean) => {
      off.forEach((f) => f());
      stop = null;
      useTrial.setState({ name: null });
      if (span) {
        clock.setRange(was.range);
        clock.setLooping(was.looping);
        if (!was.playing) clock.pause();
      }
      if (back) useWorkspace.setState((s) => ({ ...before, revision: s.revision + 1 }));
    };
    stop = () => end(true);
    if (span) clock.play();
  } catch (error) {
    notify(error instanceof Problem ? error : new Problem(0, String(error)));
  }
}

/** Shows what is stored again. */
export function stopTrial() {
  newest++;
  stop?.();
}
