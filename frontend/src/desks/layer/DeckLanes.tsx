// Which lanes of the deck are there, and whether keys are shown held.
import { Box, HStack } from "@chakra-ui/react";
import { useSession } from "../../workspace/workspace";
import { stepKeys } from "./layerCommands";
import { fold, useLayerDesk, type Folded } from "./layerState";

const LANES: [keyof Folded, string][] = [
  ["words", "Words of the role"],
  ["clips", "Clips of all roles, or of the one that is worked on"],
  ["layers", "All layers of the role, or the open one"],
];

export function DeckLanes() {
  const folded = useLayerDesk((s) => s.folded);
  const stepped = useSession((s) => s.shot?.stepped ?? false);
  return (
    <HStack gap="1" fontSize="xs" role="group" aria-label="Lanes">
      {LANES.map(([lane, help]) => (
        <Switch key={lane} label={lane} help={help} on={!folded[lane]} onClick={() => fold(lane)} />
      ))}
      <Switch
        label="stepped"
        help="Hold every key until the next, to look at poses (B)"
        on={stepped}
        onClick={stepKeys}
      />
    </HStack>
  );
}

type Props = { label: string; help: string; on: boolean; onClick: () => void };

const Switch = ({ label, help, on, onClick }: Props) => (
  <Box
    as="button"
    px="1.5"
    py="0.5"
    borderRadius="2px"
    cursor="pointer"
    title={help}
    aria-pressed={on}
    color={on ? "ink" : "dim"}
    bg={on ? "bg.pressed" : undefined}
    onClick={onClick}
  >
    {label}
  </Box>
);
