// The rows of the take list: a grid with one row in the tab order; arrows go from row to row, Space chooses, Enter opens.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Circle, CircleDot } from "lucide-react";
import { useRef, useState } from "react";
import type { TakeRow } from "../../api/client";
import { chosenTo, rowAfter, toggledIn } from "./choosing";

const STAGES = ["gather", "solve", "tidy", "cast", "join", "handover"] as const;

type Props = {
  rows: TakeRow[];
  /** The take that is open. */
  open: string | undefined;
  chosen: string[];
  onOpen: (row: TakeRow) => void;
  onChoose: (chosen: string[]) => void;
  onCircle: (row: TakeRow) => void;
};

export function TakeGrid({ rows, open, chosen, onOpen, onChoose, onCircle }: Props) {
  const grid = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState<string | null>(null);
  const ids = rows.map((r) => r.id);
  // Where the list is entered: where it was left, else at the open take.
  const entry = [at, open].find((id) => id && ids.includes(id)) ?? ids[0];

  const go = (index: number) => {
    setAt(ids[index]!);
    grid.current?.querySelectorAll<HTMLElement>("[role=row]")[index]?.focus();
  };
  const press = (event: React.KeyboardEvent, row: TakeRow) => {
    const index = ids.indexOf(row.id);
    const next = rowAfter(event.key, index, ids.length);
    if (next !== null) {
      go(next);
      if (event.shiftKey) onChoose(chosenTo(ids, chosen, row.id, ids[next]!));
    } else if (event.key === " ") onChoose(toggledIn(chosen, row.id));
    else if (event.key === "Enter") onOpen(row);
    else if (event.key === "ArrowRight") (event.currentTarget.querySelector("button") as HTMLElement | null)?.focus();
    else return;
    event.preventDefault();
  };
  const pick = (row: TakeRow, event: React.MouseEvent) => {
    setAt(row.id);
    if (event.ctrlKey || event.metaKey) onChoose(toggledIn(chosen, row.id));
    else if (event.shiftKey && open) onChoose(chosenTo(ids, [], open, row.id));
    else onOpen(row);
  };

  return (
    <div
      ref={grid}
      role="grid"
      aria-label="Takes"
      aria-multiselectable="true"
      aria-rowcount={rows.length}
      aria-colcount={2}
    >
      {rows.map((row, index) => (
        <Row
          key={row.id}
          row={row}
          index={index}
          open={row.id === open}
          chosen={chosen.includes(row.id)}
          entered={row.id === entry}
          onPick={(e) => pick(row, e)}
          onPress={(e) => press(e, row)}
          onCircle={() => onCircle(row)}
        />
      ))}
    </div>
  );
}

type RowProps = {
  row: TakeRow;
  index: number;
  open: boolean;
  chosen: boolean;
  entered: boolean;
  onPick: (event: React.MouseEvent) => void;
  onPress: (event: React.KeyboardEvent) => void;
  onCircle: () => void;
};

function Row({ row, index, open, chosen, entered, onPick, onPress, onCircle }: RowProps) {
  const inCell = (event: React.KeyboardEvent) => {
    event.stopPropagation();
    if (event.key !== "ArrowLeft" && event.key !== "Escape") return;
    event.preventDefault();
    (event.currentTarget.closest("[role=row]") as HTMLElement).focus();
  };
  return (
    <Flex
      px="2"
      py="2"
      gap="2"
      cursor="pointer"
      borderBottomWidth="1px"
      borderColor="line"
      bg={open || chosen ? "bg.raised" : undefined}
      boxShadow={open ? "inset 3px 0 0 {colors.accent}" : undefined}
      _focusVisible={{ outline: "2px solid {colors.paper}", outlineOffset: "-2px" }}
      onClick={onPick}
      onKeyDown={onPress}
      role="row"
      aria-rowindex={index + 1}
      aria-selected={open || chosen}
      aria-current={open ? "true" : undefined}
      aria-label={`take ${row.slate}`}
      tabIndex={entered ? 0 : -1}
    >
      <Box role="gridcell">
        <Box
          as="button"
          tabIndex={-1}
          aria-label={row.circled ? "Circled" : "Circle this take"}
          aria-pressed={row.circled}
          title="Circled: the director's keeper"
          color={row.circled ? "accent" : "dim"}
          pt="0.5"
          h="fit-content"
          cursor="pointer"
          onKeyDown={inCell}
          onClick={(e: React.MouseEvent) => {
            e.stopPropagation();
            onCircle();
          }}
        >
          {row.circled ? <CircleDot size={16} /> : <Circle size={16} />}
        </Box>
      </Box>
      <Box flex="1" minW="0" role="gridcell">
        <Flex gap="2" align="baseline">
          <Text fontWeight="600" fontSize="lg" whiteSpace="nowrap">
            {row.slate}
          </Text>
          <Text color="dim" truncate>
            {row.performer}
          </Text>
          <Box flex="1" />
          {!!row.snags && (
            <Text
              fontSize="sm"
              color="accent"
              whiteSpace="nowrap"
              title="Places that look wrong; the Tidy desk lists them"
            >
              {row.snags} {row.snags === 1 ? "snag" : "snags"}
            </Text>
          )}
          <Text whiteSpace="nowrap">{row.seconds.toFixed(1)} s</Text>
          <Text color="dim" w="48px" textAlign="right" whiteSpace="nowrap">
            {row.rate && `${row.rate} fps`}
          </Text>
          <Text color="dim" whiteSpace="nowrap" w="84px" textAlign="right">
            {row.timecode || "no timecode"}
          </Text>
        </Flex>
        <Flex gap="3" mt="1" align="center">
          <Text color="dim" fontSize="sm" truncate flex="1" title={row.notes}>
            {row.notes || (row.holds.length ? row.holds.join(", ") : "")}
          </Text>
          <Flex gap="2.5" flexShrink={0}>
            {STAGES.map((s) => (
              <Flex key={s} align="center" gap="1" fontSize="xs" color={row.stages[s] ? "ink" : "dim"}>
                <Box w="10px" h="3px" borderRadius="1px" bg={row.stages[s] ? "accent" : "bg.pressed"} />
                {s}
                {!row.stages[s] && (
                  <Box as="span" srOnly>
                    not yet
                  </Box>
                )}
              </Flex>
            ))}
          </Flex>
        </Flex>
      </Box>
    </Flex>
  );
}
