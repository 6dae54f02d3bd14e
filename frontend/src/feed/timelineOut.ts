// What is played on the deck, to feeds out that send it: a frame whenever the playhead comes to one.
import { clock } from "../playback/clock";
import { openSession, sessionState, type SessionState } from "../workspace/workspace";
import { rowOf, type FeedState } from "./feedModel";

export type Tell = (what: string, given: Record<string, unknown>) => void;

/** Whether any feed out sends what is played. Pure. */
export const sendsTimeline = (state: Pick<FeedState, "outs"> | null): boolean =>
  !!state?.outs.some((out) => out.of !== "live");

/** Whom the curves that are open are of: the performer of a take, the role of a shot. Pure. */
export function playedBy({ opened, shot }: Pick<SessionState, "opened" | "shot">): string {
  if (shot) return shot.opened.shot.body.roles[shot.role]?.performer ?? "";
  return opened?.take.body.performer ?? "";
}

/** Follows the playhead until it is called off. */
export function followTimeline(tell: Tell, wanted: () => boolean): () => void {
  let last = "";
  return clock.onMove(() => {
    if (!wanted()) return;
    const session = openSession();
    const state = sessionState();
    if (!session || !state.curves?.frames) return;
    const key = `${session.id} ${clock.frame}`;
    if (key === last) return;
    last = key;
    tell("play", {
      seconds: clock.frame / clock.fps,
      performer: playedBy(state),
      values: rowOf(state.curves, clock.frame),
    });
  });
}
