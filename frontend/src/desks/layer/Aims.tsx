// The aims of a shot: points, other roles' eyes, the camera, and places that go along with a head or a prop.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { ChevronDown, ChevronRight, Trash2 } from "lucide-react";
import { useState } from "react";
import { freshId, pathOf } from "../../api/changes";
import type { Change } from "../../api/client";
import { AmountField, Plain, Section, TextField } from "../../drawer/parts";
import { nameOfRole, type ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { aimsOf, lookHere, newAim, NO_AIM, othersOf, type Aim } from "./aims";
import { propsOf } from "./propModel";

const LIES = { point: "a point", head: "on the head", eyes: "eyes", camera: "camera", prop: "on a prop" } as const;
const AXES = ["To its left", "Up", "To the front"] as const;

export function Aims({ shot }: { shot: ShotState }) {
  const { id } = shot.opened.shot;
  const [open, setOpen] = useState("");
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  const add = (choice: string) => {
    const [lies, of] = choice.split(":") as [Aim["lies"], string?];
    const key = freshId("a");
    edit("a new aim", [{ path: pathOf("aims", key), value: newAim(shot, lies, of) }]);
    setOpen(key);
  };
  const more = (
    <NativeSelect.Root size="xs" w="130px">
      <NativeSelect.Field aria-label="Add an aim" value="" onChange={(e) => add(e.target.value)}>
        <option value="" disabled>
          add an aim
        </option>
        <option value="point">a point of the shot</option>
        <option value="head">before the face</option>
        {othersOf(shot).map((role) => (
          <option key={role} value={`eyes:${role}`}>
            eyes of {nameOfRole(shot, role)}
          </option>
        ))}
        {propsOf(shot).map(([key, prop]) => (
          <option key={key} value={`prop:${key}`}>
            {prop.name}
          </option>
        ))}
        <option value="camera">the camera</option>
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
  const aims = aimsOf(shot);
  return (
    <Section title="Aims" aside={more}>
      {!aims.length && (
        <Text color="dim" fontSize="sm">
          Add what there is to look at; “look” lets the eyes dart there from the playhead on, and hold.
        </Text>
      )}
      {aims.map(([key, aim]) => (
        <Box key={key} data-testid="aim">
          <Flex align="center" gap="1.5" py="0.5">
            <IconButton
              aria-label={`${open === key ? "Fold" : "Unfold"} ${aim.name}`}
              size="2xs"
              variant="ghost"
              color="dim"
              onClick={() => setOpen(open === key ? "" : key)}
            >
              {open === key ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
            </IconButton>
            <Text flex="1" minW="0" truncate>
              {aim.name}{" "}
              <Text as="span" color="dim" fontSize="xs">
                {aim.name.startsWith(LIES[aim.lies]) ? "" : LIES[aim.lies]}
              </Text>
            </Text>
            <Plain size="2xs" title="The eyes dart here at the playhead" onClick={() => void lookHere(key, aim.name)}>
              look
            </Plain>
          </Flex>
          {open === key && <AimFields shot={shot} name={key} aim={aim} edit={edit} />}
        </Box>
      ))}
      {aims.length > 0 && (
        <Flex gap="1" mt="1">
          {NO_AIM.map(({ key, name }) => (
            <Plain key={key} size="2xs" title="From the playhead on" onClick={() => void lookHere(key, name)}>
              {name}
            </Plain>
          ))}
        </Flex>
      )}
    </Section>
  );
}

type Props = { shot: ShotState; name: string; aim: Aim; edit: (label: string, changes: Change[]) => void };

function AimFields({ shot, name, aim, edit }: Props) {
  const { camera } = shot.opened.shot.body;
  const own = aim.lies === "camera" ? "camera" : pathOf("aims", name, "at");
  const at = aim.lies === "camera" ? camera : aim.at;
  const near = aim.lies === "head" || aim.lies === "prop";
  const moved = (axis: number, v: number): Change[] => [{ path: own, value: at.map((w, i) => (i === axis ? v : w)) }];
  return (
    <Box pl="5" pb="1.5">
      <TextField
        label="Name"
        value={aim.name}
        onCommit={(v) => edit("name an aim", [{ path: pathOf("aims", name, "name"), value: v }])}
      />
      {aim.lies !== "eyes" &&
        AXES.map((label, axis) => (
          <AmountField
            key={label}
            label={near || axis ? label : "To the side"}
            unit="m"
            value={at[axis]!}
            rest={0}
            low={near ? -1 : -5}
            high={near ? 1 : 5}
            step={0.01}
            onDrag={(v) => void activeShot()?.preview({ shot: moved(axis, v) })}
            onCommit={(v) => edit(`move ${aim.name}`.slice(0, 120), moved(axis, v))}
          />
        ))}
      <Plain size="2xs" onClick={() => edit("remove an aim", [{ path: pathOf("aims", name), remove: true }])}>
        <Trash2 size={11} /> Remove
      </Plain>
    </Box>
  );
}
