// What of the character a touch-up layer acts on: its targets and joints, found by name and by the region chart.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { LayerDoc } from "../../api/client";
import { FoundRows, RowSwitch } from "../../drawer/FoundRows";
import { Plain } from "../../drawer/parts";
import { isLight } from "../../shared/colourMode";
import { colourOf } from "../../shared/regions";
import { missingIn, namedIn, rigWords, rowsFound, type Rig, type RigRow } from "../../workspace/rig";
import { activeShot, useOpen } from "../../workspace/workspace";
import { RegionLetters } from "./RegionLetters";

const ROWS = 60; // of a long list

export function RigChannels({ layer }: { layer: LayerDoc }) {
  const { shot } = useOpen("shot");
  const of = shot?.opened.characters.find((c) => c.id === layer.body.character)?.body.name;
  const plays = shot?.opened.shot.body.roles[shot.role]?.character;
  if (!shot || plays !== layer.body.character)
    return (
      <Text py="1" fontSize="sm" color="dim" data-testid="rig-waits">
        This layer touches up {of ?? "another character"} and waits until that one plays the role again.
      </Text>
    );
  if (!shot.rig) return null;
  return <Found rig={shot.rig} layer={layer} name={of ?? "the character"} />;
}

function Found({ rig, layer, name }: { rig: Rig; layer: LayerDoc; name: string }) {
  const [words, setWords] = useState("");
  const [regions, setRegions] = useState<string[]>([]);
  const found = rowsFound(rig, words, regions);
  const missing = missingIn(layer.body, rig);
  const held = namedIn(layer.body, rig);
  const toggleRegion = (r: string) =>
    setRegions(regions.includes(r) ? regions.filter((other) => other !== r) : [...regions, r]);
  const toggle = (channels: string[]) => {
    const on = channels.every((c) => rig.shown.includes(c));
    const others = rig.shown.filter((c) => !channels.includes(c));
    void activeShot()?.showOnRig(on ? others : [...others, ...channels]);
  };
  return (
    <Box mt="2" pt="2" borderTopWidth="1px" borderColor="line" data-testid="rig-channels">
      <Flex justify="space-between" align="center" mb="1" gap="2">
        <Text fontWeight="600" fontSize="sm" minW="0" truncate>
          Targets and joints of {name}
        </Text>
        {held.length > 0 && (
          <Plain size="2xs" title="Show what this layer changes" onClick={() => void activeShot()?.showOnRig(held)}>
            Changed here ({held.length})
          </Plain>
        )}
      </Flex>
      <Box mb="1">
        <RegionLetters label="Regions of the rig" on={(r) => regions.includes(r)} onToggle={toggleRegion} />
      </Box>
      <FoundRows
        find="Find a target or joint"
        label="Rig"
        word={words}
        onWord={setWords}
        note={
          !found.length
            ? "Nothing on this rig is called so."
            : found.length > ROWS
              ? `and ${found.length - ROWS} more: type a part of the name`
              : null
        }
      >
        {found.slice(0, ROWS).map((row) => (
          <Row key={`${row.part} ${row.name}`} row={row} shown={rig.shown} onToggle={toggle} />
        ))}
      </FoundRows>
      {missing.length > 0 && (
        <Text fontSize="sm" color="dim" mt="1" data-testid="rig-missing">
          Not on this rig any more: {missing.slice(0, 4).map(rigWords).join(", ")}
          {missing.length > 4 ? ` and ${missing.length - 4} more` : ""}
        </Text>
      )}
    </Box>
  );
}

type RowProps = { row: RigRow; shown: string[]; onToggle: (channels: string[]) => void };

const KINDS = { target: ["show"], limb: ["reach"], joint: ["turn", "slide"] };

/** A target as a whole, a hand or foot by where it reaches; a joint by its turns, its slides, or one of them. */
function Row({ row, shown, onToggle }: RowProps) {
  const labels = KINDS[row.part];
  const kinds = row.part === "joint" ? [row.channels.slice(0, 3), row.channels.slice(3)] : [row.channels];
  return (
    <Flex align="center" gap="1.5" px="1.5" minH="22px" data-testid="rig-row">
      <Box w="6px" h="6px" borderRadius="full" flexShrink={0} style={{ background: colourOf(row.region, isLight()) }} />
      <Text flex="1" minW="0" truncate fontSize="sm" title={row.name}>
        {row.name}
      </Text>
      {kinds.map((channels, n) => {
        const on = channels.every((c) => shown.includes(c));
        return (
          <RowSwitch
            key={labels[n]}
            on={on}
            label={row.part === "target" ? `Show ${row.name}` : `Show ${labels[n]} of ${row.name}`}
            word={labels[n]!}
            onClick={() => onToggle(channels)}
          />
        );
      })}
    </Flex>
  );
}
