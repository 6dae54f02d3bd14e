// The match of the take that is open: what the page shows of it, and what is chosen in it.
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { api } from "../api/client";
import { edit, useOpen } from "../workspace/workspace";
import { matching, type Part, type Report, type Whose } from "./matchModel";

type Chosen = Record<Whose, string>;
type State = {
  /** Whether the match is worked on: both skeletons stand in the viewer. */
  shown: boolean;
  /** Whose skeleton is matched: the body's, or that of a take of hands. */
  part: Part;
  chosen: Chosen;
  over: { whose: Whose; name: string } | null;
  /** Whether what is done to one side is done to the other. */
  both: boolean;
};
const NONE: Chosen = { body: "", character: "" };

export const useMatchState = create<State>(() => ({
  shown: false,
  part: "body",
  chosen: NONE,
  over: null,
  both: true,
}));
export const showMatch = (shown: boolean, part: State["part"] = "body") =>
  useMatchState.setState({ shown, part, chosen: NONE, over: null });
export const hoverJoint = (over: State["over"]) => useMatchState.setState({ over });
export const mirrorMatches = (both: boolean) => useMatchState.setState({ both });

/** Both skeletons and what is matched; null without a body, a face or a character with joints. */
export function useMatchReport(wanted = true): Report | null {
  const { opened } = useOpen("opened");
  const held = opened?.sources;
  const part = useMatchState((s): Part => (s.part === "hands" && held?.hands ? "hands" : "body"));
  const take = opened?.take.id;
  return (
    useQuery({
      queryKey: ["match", part, take, opened?.join.version, held?.[part]?.id, opened?.character?.id],
      queryFn: async (): Promise<Report> =>
        part === "hands" ? { ...(await api.handsReport(take!)), part } : { ...(await api.matchReport(take!)), part },
      enabled: wanted && !!held?.[part] && !!held.curves && !!opened?.character,
      placeholderData: (before, query) =>
        query?.queryKey[1] === part && query.queryKey[2] === take ? before : undefined,
      retry: false,
    }).data ?? null
  );
}

/** Chooses a joint; with one of the other skeleton chosen already, the two are matched. */
export function chooseJoint(report: Report, whose: Whose, name: string) {
  const { chosen, both } = useMatchState.getState();
  if (chosen[whose] === name) return useMatchState.setState({ chosen: NONE });
  const next = { ...NONE, ...chosen, [whose]: name };
  if (!next.body || !next.character || chosen[whose])
    return useMatchState.setState({ chosen: { ...NONE, [whose]: name } });
  useMatchState.setState({ chosen: NONE });
  matchJoint(report, next.character, next.body, both);
}

export const matchJoint = (report: Report, ours: string, theirs: string, both: boolean) =>
  void edit("join", theirs ? `match ${ours}` : `leave ${ours} alone`, matching(report, ours, theirs, both));
