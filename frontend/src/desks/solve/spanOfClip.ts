// The in and out of a clip. Pure.

export type Span = { first: number; last: number; handles: number };

export const USUAL_HANDLES = 12;
export const MOST_HANDLES = 1000; // as core/track/clip_span.py has it

/** The frames that are solved, with handles, as core/track/clip_span.py counts them; null for all of them. */
export function solvedOf(span: Span | null, count: number): [number, number] | null {
  if (!span) return null;
  return [Math.max(0, span.first - span.handles), Math.min(count - 1, span.last + span.handles)];
}

/** What the button that solves says. */
export const solveWord = (span: Span | null, count: number): string => {
  const solved = solvedOf(span, count);
  return solved ? `Solve ${solved[0]}..${solved[1]}` : "Solve this clip";
};

/** Rising numbers of frames as spans of those that follow each other. */
export function spansOf(frames: number[]): [number, number][] {
  const spans: [number, number][] = [];
  for (const frame of frames) {
    const last = spans.at(-1);
    if (last && frame === last[1] + 1) last[1] = frame;
    else spans.push([frame, frame]);
  }
  return spans;
}
