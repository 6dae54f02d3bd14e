// The track of one dot: how surely it is seen over time, and what is put right in it by hand.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useEffect, useMemo, useRef } from "react";
import type { Table } from "../../api/bundle";
import { Plain } from "../../drawer/parts";
import { alike, correctionsOf, nameFor, startOf, stretchesOf, inWords, type Correction } from "../../markers/byHand";
import { useDotState, type DotsReport } from "../../markers/dots";
import { clock } from "../../playback/clock";
import { useClock } from "../../playback/useClock";
import { addPainter } from "../../timekit/frameLoop";
import { edit, useOpen } from "../../workspace/workspace";

type Props = {
  layout: string;
  report: DotsReport;
  sure: Table;
  places: Record<string, string>;
  busy: boolean;
  onSolve: () => void;
};

export function DotTracks({ layout, report, sure, places, busy, onSolve }: Props) {
  const { opened } = useOpen("opened");
  const { frame } = useClock();
  const { dot, putting } = useDotState();
  const set = useDotState.setState;
  const body = opened!.take.body;
  const label = dot && report.labels.includes(dot) ? dot : report.labels[0]!;
  const made = correctionsOf(body, layout);
  const own = made.filter((c) => c.made.dot === label).map((c) => c.made);
  const [frames, count] = sure.shape as [number, number];
  const values = useMemo(
    () => Float32Array.from({ length: frames }, (_, f) => sure.data[f * count + report.labels.indexOf(label)]!),
    [sure, frames, count, report.labels, label],
  );
  const splits = own.flatMap((c) => (c.kind === "split" ? [c.frame] : []));
  const stretches = stretchesOf(values, splits);
  const shares = useMemo(
    () =>
      report.labels.map((_, n) => {
        let on = 0;
        for (let f = 0; f < frames; f++) if (sure.data[f * count + n]! > 0) on++;
        return Math.round((100 * on) / Math.max(frames, 1));
      }),
    [sure, frames, count, report.labels],
  );
  const here = stretches.find(([a, b]) => a <= frame && frame <= b);
  const waiting = !alike(report.corrections ?? {}, made);
  const keep = (said: string, correction: Correction) =>
    void edit("take", said.slice(0, 120), [{ path: `dots/${nameFor(body, correction)}`, value: correction }]);
  const named = (l: string) => `${l}${places[l] ? `, ${places[l]}` : ""}`;
  return (
    <Box mt="3" data-testid="dot-tracks">
      <Flex align="center" gap="2" py="0.5">
        <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
          Track
        </Text>
        <NativeSelect.Root size="xs">
          <NativeSelect.Field
            aria-label="Track of"
            value={label}
            onChange={(e) => set({ dot: e.target.value, putting: false })}
          >
            {report.labels.map((l, n) => (
              <option key={l} value={l}>
                {named(l)} ({shares[n]}%)
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      <Strip label={label} values={values} own={own} />
      <Flex mt="1" fontSize="sm" color="dim" minH="18px">
        <Text>
          {here
            ? `Seen from frame ${here[0]} to ${here[1]}` +
              (stretches.length > 1 ? `, stretch ${stretches.indexOf(here) + 1} of ${stretches.length}` : "")
            : stretches.length
              ? "Not seen in this frame"
              : "Seen nowhere"}
        </Text>
      </Flex>
      <Flex mt="1" gap="1.5" wrap="wrap" align="center">
        <Plain
          size="2xs"
          aria-pressed={putting}
          title="Its true place in this frame, carried both ways; or drag its ring in the picture"
          onClick={() => {
            clock.pause();
            set({ dot: label, putting: !putting, picking: null });
          }}
        >
          Put it
        </Plain>
        <Plain
          size="2xs"
          disabled={!here || here[0] === frame}
          title="The track breaks before this frame"
          onClick={() => keep(`split ${label} at frame ${frame}`, { kind: "split", layout, dot: label, frame })}
        >
          Split
        </Plain>
        <Plain
          size="2xs"
          disabled={!here}
          title="What was followed over this stretch is not this dot"
          onClick={() =>
            here &&
            keep(`drop ${label} from ${here[0]} to ${here[1]}`, {
              kind: "drop",
              layout,
              dot: label,
              first: here[0],
              last: here[1],
            })
          }
        >
          Drop
        </Plain>
        <NativeSelect.Root size="xs" w="132px" disabled={!here}>
          <NativeSelect.Field
            aria-label="Give the stretch to"
            title="Over this stretch the track is another dot's; what that one had is exchanged"
            value=""
            onChange={(e) =>
              here &&
              e.target.value &&
              keep(`give ${label} to ${e.target.value}`, {
                kind: "give",
                layout,
                dot: label,
                first: here[0],
                last: here[1],
                to: e.target.value,
              })
            }
          >
            <option value="">Give to…</option>
            {report.labels
              .filter((l) => l !== label)
              .map((l) => (
                <option key={l} value={l}>
                  {named(l)}
                </option>
              ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      {made.length > 0 && (
        <Box mt="1.5" maxH="112px" overflowY="auto">
          {made.map(({ name, made: c }) => (
            <Flex key={name} align="center" gap="1" data-testid="dot-correction">
              <Box
                as="button"
                flex="1"
                minW="0"
                textAlign="left"
                fontSize="sm"
                cursor="pointer"
                title="Go there"
                onClick={() => {
                  clock.seekFrame(startOf(c));
                  set({ dot: c.dot });
                }}
              >
                <Text truncate>
                  <Text as="span" color="dim" fontFamily="number">
                    {startOf(c)}
                  </Text>{" "}
                  {inWords(c)}
                </Text>
              </Box>
              <IconButton
                aria-label={`Take back ${inWords(c)}`}
                size="2xs"
                variant="ghost"
                onClick={() =>
                  void edit("take", `take back: ${inWords(c)}`.slice(0, 120), [{ path: `dots/${name}`, remove: true }])
                }
              >
                <X size={12} />
              </IconButton>
            </Flex>
          ))}
        </Box>
      )}
      {waiting ? (
        <Flex mt="1.5" align="center" gap="2">
          <Text flex="1" fontSize="sm" color="accent">
            Put right by hand since this solve.
          </Text>
          <Plain size="2xs" disabled={busy} onClick={onSolve}>
            Follow and solve again
          </Plain>
        </Flex>
      ) : (
        !made.length && (
          <Text mt="1.5" fontSize="sm" color="dim">
            Drag a ring in the picture to where its dot is: it is followed from there both ways.
          </Text>
        )
      )}
    </Box>
  );
}

function Strip({ label, values, own }: { label: string; values: Float32Array; own: Correction[] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const painter = addPainter(() => {
      const element = canvas.current;
      const c = element?.getContext("2d");
      if (!element || !c) return;
      const [w, h] = [element.width / 2, element.height / 2];
      c.setTransform(2, 0, 0, 2, 0, 0);
      const x = (frame: number) => (frame / Math.max(values.length, 1)) * w;
      c.clearRect(0, 0, w, h);
      c.fillStyle = c.strokeStyle = getComputedStyle(element).color;
      c.globalAlpha = 0.55;
      for (let f = 0; f < values.length; f++)
        if (values[f]! > 0)
          c.fillRect(
            Math.round(x(f)),
            h - values[f]! * (h - 8),
            Math.round(x(f + 1)) - Math.round(x(f)) || 1,
            values[f]! * (h - 8),
          );
      c.globalAlpha = 1;
      for (const made of own) {
        if (made.kind === "split") c.fillRect(x(made.frame) - 0.75, 6, 1.5, h);
        else if (made.kind === "put") {
          c.beginPath();
          c.arc(x(made.frame + 0.5), 4, 3, 0, Math.PI * 2);
          c.fill();
        } else c.strokeRect(x(made.first) + 0.5, 6.5, x(made.last + 1) - x(made.first) - 1, h - 7);
      }
      c.fillRect(Math.round(x(clock.frame + 0.5)), 0, 1, h);
    });
    const off = clock.onMove(painter.invalidate);
    return () => {
      off();
      painter.remove();
    };
  }, [values, own]);
  return (
    <Box mt="1" bg="bg.lane" borderRadius="2px" h="34px">
      <canvas
        ref={canvas}
        width={600}
        height={68}
        style={{
          width: "100%",
          height: "34px",
          display: "block",
          cursor: "pointer",
          color: "var(--chakra-colors-accent)",
        }}
        aria-label={`Track of ${label}`}
        onClick={(e) =>
          clock.seekFrame(
            Math.min(
              Math.floor((e.nativeEvent.offsetX / e.currentTarget.clientWidth) * values.length),
              values.length - 1,
            ),
          )
        }
      />
    </Box>
  );
}
