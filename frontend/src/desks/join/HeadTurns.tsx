// What the camera of the face take stood still against, and which joints share the head's turn.
import { Text } from "@chakra-ui/react";
import { pathOf } from "../../api/changes";
import type { JoinDoc, JoinReport } from "../../api/client";
import { ChoiceField } from "../../drawer/ChoiceField";
import { AmountField, Fact } from "../../drawer/parts";
import { edit, preview } from "../../workspace/workspace";

const FILMED: Record<string, string> = {
  chest: "a camera that goes with the chest",
  fixed: "a camera that stands still",
  head: "a camera on the head",
};
const SAID: Record<string, string> = {
  chest: "The face take's turn is taken as against the chest.",
  fixed: "What body and neck did together was seen: the body's own turn is not added again.",
  head: "It went along with the head and saw no turn at all: the head is the body take's.",
};
const SPREADS: Record<string, string> = {
  even: "alike on every joint",
  measured: "as the body take shares it",
  set: "as set here",
};

type Props = { join: JoinDoc["body"]; head: JoinReport["head"] };

export function HeadTurns({ join, head }: Props) {
  const keep = (label: string, path: string, value: unknown) => void edit("join", label, [{ path, value }]);
  if (!head.starts.length) return null;
  return (
    <>
      <ChoiceField
        word="Filmed by"
        label="What filmed the face"
        value={join.filmed}
        choices={FILMED}
        onChoose={(v) => keep("what filmed the face", "filmed", v)}
      />
      <Text fontSize="sm" color="dim">
        {SAID[join.filmed]}
      </Text>
      <ChoiceField
        word="Turns from"
        label="Lowest joint that turns the head"
        value={head.starts.includes(join.headFrom) ? join.headFrom : ""}
        choices={{ "": "the neck", ...Object.fromEntries(head.starts.map((joint) => [joint, joint])) }}
        onChoose={(v) => keep("from where the head turns", "headFrom", v)}
      />
      <ChoiceField
        word="Shared"
        label="How joints share the turn"
        value={join.spread}
        choices={SPREADS}
        onChoose={(v) => keep("how joints share the head's turn", "spread", v)}
      />
      {join.spread === "set"
        ? head.chain.map((joint) => (
            <AmountField
              key={joint}
              label={joint}
              value={join.headShares[joint] ?? 1}
              rest={1}
              low={0}
              high={3}
              step={0.05}
              onDrag={(v) => void preview({ join: [{ path: pathOf("headShares", joint), value: v }] })}
              onCommit={(v) => keep("share of the head's turn", pathOf("headShares", joint), v)}
            />
          ))
        : join.spread === "measured" && (
            <Fact name="Shares">
              {head.chain.map((joint, i) => `${joint} ${Math.round(100 * head.shares[i]!)} %`).join(", ")}
            </Fact>
          )}
    </>
  );
}
