// When the feet of the open take stand and its hands touch, which span is chosen, and what is done to it.
import { useEffect } from "react";
import { create } from "zustand";
import type { Change } from "../api/client";
import { edit, preview, useOpen, useSession } from "../workspace/workspace";
import { goesItsWay, useJoinReport } from "../workspace/useJoinReport";
import type { StandEdge, StandRows } from "../timekit/tracks/stands";
import {
  adding,
  asFound,
  keyOf,
  removing,
  rowOf,
  ROWS,
  sameSpan,
  setting,
  withEdge,
  type Clock,
  type Stand,
} from "./standModel";

/** place: where the chosen one was: what is worked out anew meanwhile may have it under another key. */
type State = { chosen: string; place: Stand | null; drag: { key: string; id: string; now: Stand } | null };
export const useStandState = create<State>(() => ({ chosen: "", place: null, drag: null }));
const SETTLED = 1500; // milliseconds
const newId = () => crypto.randomUUID().slice(0, 8);

/** What the deck draws of them, and what is done with one; null where a take has none to show. */
export function useStands(wanted: boolean) {
  const { opened } = useOpen("opened");
  const rate = useSession((s) => s.curves?.rate ?? 60);
  const report = useJoinReport(wanted);
  const { chosen, place, drag } = useStandState();
  const found = report?.stands;
  useEffect(() => useStandState.setState({ drag: null }), [found]);
  if (!wanted || !report || !opened) return null;
  const join = opened.join.body;
  const clock: Clock = { begins: report.begins, rate };
  const stands = report.stands.map((s) => (drag && keyOf(s) === drag.key ? drag.now : s));
  const isHeld = (by: "feet" | "touch") => join[by] && (by === "touch" || goesItsWay(join));
  const find = (key: string) => report.stands.find((s) => keyOf(s) === key);
  const stand = find(chosen) ?? (place ? report.stands.find((s) => sameSpan(s, place)) : undefined);
  const keep = (label: string, stand: Stand, id: string, change: Change) => {
    useStandState.setState(change.remove ? { chosen: "", place: null } : { chosen: id, place: stand });
    const mine = useStandState.getState().drag;
    // What was dragged stays where it was dropped until the report says the same, or for long enough if it never does.
    const settle = () => useStandState.setState((s) => (s.drag === mine ? { drag: null } : {}));
    void edit("join", `${label}: ${ROWS[rowOf(stand.side)]!.word}`, [change]).finally(() =>
      window.setTimeout(settle, SETTLED),
    );
  };
  const rows: StandRows = {
    rows: ROWS.map(({ word, does, by }) => ({ word, does, held: isHeld(by) })),
    spans: stands.map((s) => ({
      key: drag?.now === s ? drag.key : keyOf(s),
      row: rowOf(s.side),
      first: s.first,
      last: s.last,
      byHand: !!s.key,
    })),
    chosen: stand ? keyOf(stand) : "",
    onChoose: (key) => useStandState.setState({ chosen: key, place: find(key) ?? null }),
    onDrag: (key: string, edge: StandEdge, frame: number) => {
      const was = find(key);
      if (!was) return;
      const before = useStandState.getState().drag;
      const now = withEdge(before?.key === key ? before.now : was, edge, frame);
      const id = was.key || (before?.key === key ? before.id : newId());
      useStandState.setState({ drag: { key, id, now } });
      if (join[ROWS[rowOf(now.side)]!.by]) void preview({ join: [setting(now, was, id, join.contacts, clock)] });
    },
    onDrop: () => {
      const dropped = useStandState.getState().drag;
      const was = dropped && find(dropped.key);
      if (dropped && was) keep("contact", was, dropped.id, setting(dropped.now, was, dropped.id, join.contacts, clock));
    },
    onAdd: (row, frame) => {
      const id = newId();
      keep(
        "new contact",
        { side: ROWS[row]!.side, first: frame, last: frame, key: id },
        id,
        adding(row, frame, id, clock),
      );
    },
  };
  const set = (label: string, stand: Stand, make: typeof setting) => {
    const id = stand.key || newId();
    keep(label, stand, id, make(stand, stand, id, join.contacts, clock));
  };
  const own = stand?.key ? join.contacts[stand.key] : undefined;
  return {
    rows,
    stands: report.stands,
    chosen: stand,
    gone: Object.entries(join.contacts).filter(([, c]) => !c.stands).length,
    lock: stand && !own ? () => set("locked contact", stand, setting) : undefined,
    remove: stand ? () => set("no contact", stand, (_, was, id, ...rest) => removing(was, id, ...rest)) : undefined,
    asFound: stand && own?.over ? () => keep("contact as found", stand, "", asFound(stand)) : undefined,
    allAsFound: () => {
      useStandState.setState({ chosen: "", place: null, drag: null });
      void edit("join", "all contacts as found", [{ path: "contacts", value: {} }]);
    },
    byHand: Object.keys(join.contacts).length,
  };
}
