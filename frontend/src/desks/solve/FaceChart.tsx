// The face chart: the places of a face seen from the front, coloured by region. A click puts the chosen marker there.
import { Box, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { ChartPlace } from "../../api/client";
import { isLight } from "../../shared/colourMode";
import { colourOf } from "../../shared/regions";

const [WIDTH, HEIGHT, EDGE] = [304, 290, 12];
type Props = {
  chart: ChartPlace[];
  places: Record<string, string>;
  off: string[];
  selected: string | null;
  onPlace: (place: string) => void;
};

export function FaceChart({ chart, places, off, selected, onPlace }: Props) {
  const [over, setOver] = useState<string | null>(null);
  const by = Object.fromEntries(Object.entries(places).map(([label, place]) => [place, label]));
  const mine = selected ? places[selected] : undefined;
  const heights = chart.map((p) => p.at[1]!);
  const [top, bottom] = [Math.max(...heights), Math.min(...heights)];
  const scale = (HEIGHT - 2 * EDGE) / Math.max(top - bottom, 0.01);
  const shown = over ?? mine;
  return (
    <Box>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        role="group"
        aria-label="Face chart"
        style={{ display: "block" }}
      >
        {chart.map((p) => {
          // Places that lie at the side of the head are drawn a little outward, so that they can be told apart.
          const [x, y] = [
            WIDTH / 2 + p.at[0]! * scale * (1 + 2.2 * Math.max(-p.at[2]!, 0)),
            EDGE + (top - p.at[1]!) * scale,
          ];
          const held = by[p.name];
          const colour = colourOf(p.region, isLight());
          return (
            <g
              key={p.name}
              role="button"
              tabIndex={0}
              aria-label={`${p.name}${held ? `, ${held}` : ", empty"}`}
              aria-pressed={p.name === mine}
              style={{ cursor: "pointer", outline: "none" }}
              onMouseEnter={() => setOver(p.name)}
              onMouseLeave={() => setOver(null)}
              onFocus={() => setOver(p.name)}
              onBlur={() => setOver(null)}
              onClick={() => onPlace(p.name)}
              onKeyDown={(e) => {
                if (e.key === "Enter") onPlace(p.name);
              }}
            >
              <circle cx={x} cy={y} r={9} fill="transparent" />
              {p.fixed ? (
                <rect
                  x={x - 4.5}
                  y={y - 4.5}
                  width={9}
                  height={9}
                  fill={held ? colour : "none"}
                  stroke={colour}
                  strokeWidth={1.4}
                  opacity={held && off.includes(held) ? 0.35 : 1}
                />
              ) : (
                <circle
                  cx={x}
                  cy={y}
                  r={4.6}
                  fill={held ? colour : "none"}
                  stroke={colour}
                  strokeWidth={1.4}
                  opacity={held && off.includes(held) ? 0.35 : 1}
                />
              )}
              {p.name === mine &&
                [8, 10.5].map((r) => (
                  <circle key={r} cx={x} cy={y} r={r} fill="none" stroke="currentColor" strokeWidth={1.2} />
                ))}
              {p.name === over && p.name !== mine && (
                <circle cx={x} cy={y} r={8} fill="none" stroke="currentColor" strokeWidth={1} opacity={0.6} />
              )}
            </g>
          );
        })}
      </svg>
      <Text fontSize="sm" minH="20px" color={shown ? "ink" : "dim"} data-testid="chart-place">
        {shown
          ? `${shown}${by[shown] ? `: ${by[shown]}` : ", empty"}${chart.find((p) => p.name === shown)?.fixed ? " (carries the head)" : ""}`
          : "Performer's left is on the right. Squares only carry the head."}
      </Text>
    </Box>
  );
}
