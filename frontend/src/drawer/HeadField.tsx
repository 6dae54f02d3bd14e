// Who moves the head where there is a body: a weight over time, and to what the eyes keep their look.
import { Text } from "@chakra-ui/react";
import type { Change } from "../api/client";
import { Toggle } from "./parts";
import { WeightField } from "./WeightField";
import type { Weight } from "./weights";

type Props = {
  /** Before the paths of its fields. */
  base: string;
  weight: Weight;
  look: string;
  onTry: (changes: Change[]) => void;
  onKeep: (label: string, changes: Change[]) => void;
};

export function HeadField({ base, weight, look, onTry, onKeep }: Props) {
  return (
    <>
      <WeightField
        label="Face weight"
        path={`${base}headWeight`}
        weight={weight}
        high={1}
        onTry={onTry}
        onKeep={(changes) =>
          onKeep(changes[0]?.path.includes("/keys/") ? "key the head weight" : "head weight", changes)
        }
      />
      <Toggle
        label="Look stays in the world"
        hint="Eyes give back what the head turns otherwise than the face take saw it, by 30 degrees at most"
        on={look === "world"}
        onChange={(on) =>
          onKeep(on ? "look stays in the world" : "look goes with the head", [
            { path: `${base}look`, value: on ? "world" : "head" },
          ])
        }
      />
      <Text fontSize="sm" color="dim">
        0 leaves the head to the body take, 1 to the face take; the diamond keys it here, with a ramp to the next key.
        The neck joints share the turn; the two are never added.
      </Text>
    </>
  );
}
