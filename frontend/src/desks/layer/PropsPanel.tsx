// The props of a shot: brought in, put up, and which hands hold them when.
import { Box, Flex, IconButton, Text } from "@chakra-ui/react";
import { ChevronDown, ChevronRight, Trash2 } from "lucide-react";
import { useState } from "react";
import { useParams } from "react-router";
import { pathOf } from "../../api/changes";
import { api, type Change } from "../../api/client";
import { ChoiceField } from "../../drawer/ChoiceField";
import { PickFile } from "../../drawer/PickFile";
import { AmountField, Plain, Section, TextField, Toggle } from "../../drawer/parts";
import { notify } from "../../shared/notices";
import type { ShotState } from "../../workspace/state";
import { activeShot, useOpen } from "../../workspace/workspace";
import { HoldsOfProp } from "./HoldsOfProp";
import { useLayerDesk } from "./layerState";
import { propsOf, type Prop } from "./propModel";

const AXES = ["To the side", "Up", "To the front"] as const;
const BEGINS = { hand: "in the first hand", place: "where it stands" };

export function PropsPanel() {
  const shot = useOpen("shot").shot!;
  const { production = "" } = useParams();
  const chosen = useLayerDesk((s) => s.hold?.prop);
  const props = propsOf(shot);
  const [folded, setFolded] = useState<string | null>(null);
  const open = chosen ?? props[0]?.[0] ?? "";
  const bring = (file: File) =>
    void activeShot()
      ?.changeShot(async ({ id, version }) => {
        const { media } = await api.upload(production, file);
        return api.bringProp(id, { media, name: file.name, version });
      })
      .catch(notify as never);
  return (
    <Section
      title="Props"
      aside={
        <PickFile
          word="Bring a prop"
          test="prop-file"
          accept=".glb,.gltf,.zip"
          hint="A .glb, or a .gltf with its files in a .zip, with or without a motion of its own"
          onPick={bring}
        />
      }
    >
      {!props.length && (
        <Text color="dim" fontSize="sm">
          Things that stand in the shot or are held: bring one in, then say which hands hold it, or let them be found.
        </Text>
      )}
      {props.map(([name, prop]) => {
        const unfolded = open === name && folded !== name;
        const press = () => {
          setFolded(unfolded ? name : null);
          if (!unfolded) useLayerDesk.setState({ hold: { prop: name, key: "" } });
        };
        return (
          <Box key={name} data-testid="prop" mb="1">
            <Flex align="center" gap="1.5" py="0.5">
              <IconButton
                aria-label={`${unfolded ? "Fold" : "Unfold"} ${prop.name}`}
                size="2xs"
                variant="ghost"
                color="dim"
                onClick={press}
              >
                {unfolded ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
              </IconButton>
              <Text flex="1" minW="0" truncate>
                {prop.name}
              </Text>
              <Text fontSize="xs" color="dim">
                {Object.keys(prop.holds).length || "no"} {Object.keys(prop.holds).length === 1 ? "hold" : "holds"}
              </Text>
            </Flex>
            {unfolded && (
              <Box pl="5">
                <HoldsOfProp shot={shot} name={name} prop={prop} />
                <PropFields shot={shot} name={name} prop={prop} />
              </Box>
            )}
          </Box>
        );
      })}
    </Section>
  );
}

function PropFields({ shot, name, prop }: { shot: ShotState; name: string; prop: Prop }) {
  const { id } = shot.opened.shot;
  const path = (field: string) => pathOf("props", name, field);
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  const put = (field: string, value: unknown): Change[] => [{ path: path(field), value }];
  const moved = (axis: number, v: number) =>
    put(
      "at",
      prop.at.map((w, i) => (i === axis ? v : w)),
    );
  const amount = (field: "turn" | "size", label: string, unit: string, rest: number, low: number, high: number) => (
    <AmountField
      label={label}
      unit={unit}
      value={prop[field]}
      rest={rest}
      low={low}
      high={high}
      step={field === "turn" ? 1 : 0.01}
      onDrag={(v) => void activeShot()?.preview({ shot: put(field, v) })}
      onCommit={(v) => edit(`${label.toLowerCase()}: ${prop.name}`.slice(0, 120), put(field, v))}
    />
  );
  const moves = prop.plays !== null;
  // One that is in a hand from the beginning is where that hand is.
  const stands = moves || prop.begins === "place" || !Object.keys(prop.holds).length;
  return (
    <Box mt="2">
      <TextField label="Name" value={prop.name} onCommit={(v) => edit("name a prop", put("name", v))} />
      {!moves && (
        <ChoiceField
          word="Begins"
          label={`Where ${prop.name} is before it is held`}
          value={prop.begins}
          choices={BEGINS}
          onChoose={(v) => edit(`where ${prop.name} begins`.slice(0, 120), put("begins", v))}
        />
      )}
      {moves && (
        <AmountField
          label="Moves from"
          unit="s"
          hint="Second of the shot at which its own motion begins"
          value={prop.plays ?? 0}
          rest={0}
          low={-10}
          high={10}
          step={0.01}
          onDrag={(v) => void activeShot()?.preview({ shot: put("plays", v) })}
          onCommit={(v) => edit(`when ${prop.name} moves`.slice(0, 120), put("plays", v))}
        />
      )}
      {stands &&
        AXES.map((label, axis) => (
          <AmountField
            key={label}
            label={label}
            unit="m"
            value={prop.at[axis]!}
            rest={0}
            low={-3}
            high={3}
            step={0.01}
            onDrag={(v) => void activeShot()?.preview({ shot: moved(axis, v) })}
            onCommit={(v) => edit(`move ${prop.name}`.slice(0, 120), moved(axis, v))}
          />
        ))}
      {amount("turn", "Turned", "deg", 0, -180, 180)}
      {amount("size", "Size", "times", 1, 0.1, 10)}
      <Flex align="center" justify="space-between" mt="1">
        <Toggle
          label="Hangs"
          hint="Stays upright, whichever way the hand turns"
          on={prop.hangs}
          onChange={(on) => edit(on ? `${prop.name} hangs`.slice(0, 120) : "held as the hand turns", put("hangs", on))}
        />
        <Plain size="2xs" onClick={() => edit("take a prop away", [{ path: pathOf("props", name), remove: true }])}>
          <Trash2 size={11} /> Take away
        </Plain>
      </Flex>
    </Box>
  );
}
