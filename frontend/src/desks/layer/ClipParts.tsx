// What of its take a clip shows, where the take has a body.
import { Flex } from "@chakra-ui/react";
import { freshId } from "../../api/changes";
import type { Change, Placement } from "../../api/client";
import { ChoiceField } from "../../drawer/ChoiceField";
import { Plain, Toggle } from "../../drawer/parts";
import { choosePlacement } from "./layerState";
import { goesOnFrom, SHOWN, takenApart } from "./shotModel";

type Props = {
  role: string;
  name: string;
  placement: Placement;
  /** All placements of the role. */
  others: Record<string, Placement>;
  onKeep: (label: string, changes: Change[]) => void;
  put: (field: string, value: unknown) => Change[];
};

export function ClipParts({ role, name, placement: p, others, onKeep, put }: Props) {
  const before = goesOnFrom(others, name);
  const apart = () => {
    const key = freshId("c");
    onKeep("take face and body apart", takenApart(role, others, name, key));
    choosePlacement({ role, key });
  };
  return (
    <>
      <Flex align="center" gap="1">
        <ChoiceField
          word="Shows"
          label="What of the take is shown"
          value={p.shows}
          choices={SHOWN}
          onChoose={(v) => onKeep(`show ${SHOWN[v as Placement["shows"]].toLowerCase()}`, put("shows", v))}
        />
        {p.shows === "both" && (
          <Plain size="2xs" title="Two clips, each moved and cut by itself" onClick={apart}>
            Take apart
          </Plain>
        )}
      </Flex>
      {p.shows !== "face" && (before || p.follows) && (
        <Toggle
          label="Goes on where the body before stands"
          hint="It begins at the place and facing the way in which the one before it on its lane stands then"
          on={p.follows}
          onChange={(on) => onKeep(on ? "go on from the body before" : "where its take has it", put("follows", on))}
        />
      )}
    </>
  );
}
