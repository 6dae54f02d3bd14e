// What a press among the curves begins when a tool for keys is in hand: choosing, dragging, drawing, brushing.
import { keep, ofChosen, show } from "../keys/edit";
import type { KeyHolder } from "../keys/keyHolder";
import { inside, merged, moved, toggled, useKeys, type Chosen, type DeckTool } from "../keys/keys";
import type { Curve, CurveView } from "../timekit/tracks/curves";
import { handlesOf, MAX_TANGENTS, placeOf, type KeyedCurve, type Row } from "../timekit/tracks/keys";
import type { Gesture as TrackGesture, Point, Press } from "../timekit/track";
import { xToFrame } from "../timekit/timeAxis";
import { yToValue } from "../timekit/valueAxis";

/** A gesture under way: each move and the release get the pointer's place; `stroke` is drawn while it lasts. */
export type Gesture = TrackGesture & { stroke: () => Point[]; closed: boolean };

const NEAR = 8;
const chosenNow = () => useKeys.getState().chosen;
const near = (a: Point, b: Point) => Math.hypot(a.x - b.x, a.y - b.y) <= NEAR;
type Open = KeyHolder | null;
const NOTHING = (): Point[] => [];

export function keyUnder(view: CurveView, at: Point): { held: KeyedCurve; row: Row } | null {
  for (const held of [...view.keys].reverse()) {
    const row = held.rows.find((r) => near(placeOf(view, held, r), at));
    if (row) return { held, row };
  }
  return null;
}

/** The curve nearest to a place, among those shown. */
export function curveUnder(view: CurveView, at: Point): Curve | null {
  const frame = Math.round(xToFrame(view.axis, at.x));
  const value = yToValue(view.value, at.y);
  const away = (c: Curve) =>
    Math.abs((c.tidied.base[Math.min(Math.max(frame, 0), c.tidied.frames - 1)] ?? NaN) / c.scale - value);
  return view.curves.reduce<Curve | null>((best, c) => (!best || away(c) < away(best) ? c : best), null);
}

export function beginGesture(session: Open, tool: DeckTool, view: CurveView, press: Press): Gesture | null {
  if (tool === "keys")
    return handleGesture(session, view, press) ?? keyGesture(session, view, press) ?? choosing(view, press, false);
  if (tool === "lasso") return choosing(view, press, true);
  if (tool === "draw") return drawing(session, view, press);
  if (tool === "smooth" || tool === "pull") return brushing(session, tool, view, press);
  return null;
}

function handleGesture(session: Open, view: CurveView, press: Press): Gesture | null {
  if (view.chosenCount > MAX_TANGENTS) return null;
  for (const held of view.keys) {
    for (const row of held.rows) {
      if (row[4] !== "free" || !view.isChosen(held.curve.name, row[0])) continue;
      const side = handlesOf(view, held, row).findIndex((end) => near(end, press));
      if (side < 0) continue;
      const key = placeOf(view, held, row);
      const slope = (p: Point) => {
        const frames = xToFrame(view.axis, p.x) - xToFrame(view.axis, key.x);
        const rise = (yToValue(view.value, p.y) - yToValue(view.value, key.y)) * held.curve.scale;
        return Math.abs(frames) < 1e-3 || frames > 0 !== side > 0 ? null : rise / frames;
      };
      // With Shift the other side goes its own way; else both stay in line.
      const edit = (p: Press) => {
        const value = slope(p);
        return value === null
          ? null
          : ofChosen(
              session,
              "slope",
              p.adding ? (side ? { after: value } : { before: value }) : { before: value, after: value },
            );
      };
      return {
        move: (p) => {
          const made = edit(p);
          if (made) show(session, made);
        },
        release: (p) => {
          const made = edit(p);
          if (made) void keep(session, "turn tangent", made, chosenNow());
        },
        stroke: NOTHING,
        closed: false,
      };
    }
  }
  return null;
}

function keyGesture(session: Open, view: CurveView, press: Press): Gesture | null {
  const found = keyUnder(view, press);
  if (!found) return null;
  const { name, scale } = found.held.curve;
  const had = view.isChosen(name, found.row[0]);
  const chosen = press.adding
    ? toggled(chosenNow(), name, found.row[0])
    : had
      ? chosenNow()
      : { [name]: [found.row[0]] };
  useKeys.setState({ chosen });
  const { snap } = useKeys.getState();
  const by = (p: Point) => ({
    frames: snap
      ? Math.round(xToFrame(view.axis, p.x) - xToFrame(view.axis, press.x))
      : xToFrame(view.axis, p.x) - xToFrame(view.axis, press.x),
    value: (yToValue(view.value, p.y) - yToValue(view.value, press.y)) * scale,
  });
  // A hair's move is a click; with Shift a drag keeps to one direction.
  const held = (p: Press) => {
    const all = by(p);
    if (Math.hypot(p.x - press.x, p.y - press.y) < 3) return { frames: 0, value: 0 };
    if (!p.adding) return all;
    return Math.abs(p.x - press.x) > Math.abs(p.y - press.y) ? { ...all, value: 0 } : { ...all, frames: 0 };
  };
  return {
    move: (p) => {
      const drag = held(p);
      useKeys.setState({ drag });
      const edit = ofChosen(session, "move", { ...drag, snap });
      if (edit && (drag.frames || drag.value)) show(session, edit);
    },
    release: (p) => {
      const drag = held(p);
      const edit = ofChosen(session, "move", { ...drag, snap });
      if (edit && (drag.frames || drag.value)) void keep(session, "move keys", edit, moved(chosen, drag.frames, snap));
      else useKeys.setState({ drag: null });
    },
    stroke: NOTHING,
    closed: false,
  };
}

/** Keys in a box, or in a lasso. */
function choosing(view: CurveView, press: Press, free: boolean): Gesture {
  const path: Point[] = [press];
  let corner: Point = press;
  const stroke = () => (free ? path : [press, { x: corner.x, y: press.y }, corner, { x: press.x, y: corner.y }]);
  return {
    move: (p) => {
      corner = p;
      path.push({ x: p.x, y: p.y });
    },
    release: (p) => {
      const small = Math.hypot(p.x - press.x, p.y - press.y) < 3 && path.length < 6;
      const found: Chosen = {};
      if (!small)
        for (const held of view.keys)
          for (const row of held.rows)
            if (inside(placeOf(view, held, row), stroke())) (found[held.curve.name] ??= []).push(row[0]);
      useKeys.setState((s) => ({ chosen: p.adding ? merged(s.chosen, found) : found }));
    },
    stroke,
    closed: true,
  };
}

function drawing(session: Open, view: CurveView, press: Press): Gesture | null {
  const curve = curveUnder(view, press);
  if (!curve) return null;
  const path: Point[] = [press];
  return {
    move: (p) => void path.push({ x: p.x, y: p.y }),
    release: () => {
      const points = path.map((p) => [
        Math.min(Math.max(xToFrame(view.axis, p.x), 0), view.frames - 1),
        yToValue(view.value, p.y) * curve.scale,
      ]);
      if (Math.abs(points[points.length - 1]![0]! - points[0]![0]!) >= 1)
        void keep(session, "draw a curve", { do: "draw", channels: { [curve.name]: [] }, points: thinned(points) }, {});
    },
    stroke: () => path,
    closed: false,
  };
}

const MAX_POINTS = 2000;
const thinned = <T>(points: T[]): T[] =>
  points.length <= MAX_POINTS ? points : points.filter((_, i) => i % Math.ceil(points.length / MAX_POINTS) === 0);

function brushing(session: Open, tool: "smooth" | "pull", view: CurveView, press: Press): Gesture | null {
  const curve = curveUnder(view, press);
  if (!curve) return null;
  const { size } = useKeys.getState();
  const centre = Math.min(Math.max(Math.round(xToFrame(view.axis, press.x)), 0), view.frames - 1);
  const edit = (p: Press) => {
    const strength = tool === "pull" ? 1 : Math.min(1, 0.4 + Math.hypot(p.x - press.x, p.y - press.y) / 120);
    const value = yToValue(view.value, p.y) * curve.scale;
    return {
      do: "brush",
      channels: { [curve.name]: [] as string[] },
      way: tool,
      centre,
      size,
      amount: strength,
      value,
    };
  };
  return {
    move: (p) => show(session, edit(p)),
    release: (p) => void keep(session, tool === "pull" ? "pull the curve" : "smooth by brush", edit(p), {}),
    stroke: NOTHING,
    closed: false,
  };
}

/** A key where the curve was double-clicked, on a channel that holds keys. */
export function insertAt(session: Open, view: CurveView, at: Point): boolean {
  const name = curveUnder(view, at)?.name;
  if (!name || !(session?.takesKeys || view.keys.some((k) => k.curve.name === name))) return false;
  const frame = Math.round(xToFrame(view.axis, at.x));
  void keep(session, "insert a key", { do: "insert", channels: { [name]: [] }, frame }, { [name]: [frame] });
  return true;
}
