// Colour dots: picked once in a picture of the day's clip, named on the face chart, followed and solved in every take.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Job } from "../../api/client";
import { notify } from "../../shared/notices";
import { AmountField, Plain, Primary, Section, TextField, Toggle } from "../../drawer/parts";
import { nextPlace, useDots, useDotSolve, useDotState, type DotsBody, type DotsReport } from "../../markers/dots";
import { changeBeside } from "../../markers/layouts";
import { tellHistory, useOpen } from "../../workspace/workspace";
import { DriveRows } from "./DriveRows";
import { DotTracks } from "./DotTracks";
import { FaceChart } from "./FaceChart";
import { NeutralFrames } from "./NeutralFrames";

const FEWEST = 6;
type Props = { ready: boolean; busy: boolean; ask: (work: () => Promise<Job>) => Promise<void> };
export function DotPanel({ ready, busy, ask }: Props) {
  const { opened } = useOpen("opened");
  const take = opened!.take;
  const client = useQueryClient();
  const { layouts, layout, body, chart } = useDots();
  const { open, picking, mirror, mask } = useDotState();
  const [asking, setAsking] = useState(false);
  const set = useDotState.setState;
  const solved = useDotSolve();
  const guarded = async (work: () => Promise<unknown>) => {
    setAsking(true);
    try {
      await work();
    } catch (error) {
      notify(error as never);
    }
    await client.invalidateQueries({ queryKey: ["dots"] });
    tellHistory();
    setAsking(false);
  };
  const begin = () =>
    guarded(async () => {
      const made = await api.newDots(take.id, `${take.body.performer || "Performer"}, dots`);
      set((s) => ({ chosen: { ...s.chosen, [take.id]: made.id }, picking: nextPlace(made.body, "") }));
    });
  const change = (label: string, changes: Partial<DotsBody>) =>
    guarded(() => changeBeside(layout!, label, body!, changes));
  const solve = () => {
    set({ picking: null, putting: false });
    void ask(() => api.solveDots(take.id, layout!.id));
  };
  const own = body?.footage === opened!.sources.footage?.id;
  const places = Object.fromEntries(Object.entries(body?.dots ?? {}).map(([label, d]) => [label, d.place]));
  const held = picking ? Object.entries(places).find(([, p]) => p === picking)?.[0] : undefined;
  const count = Object.keys(places).length;
  const on = (place: string) => Object.keys(places).find((l) => places[l] === place);
  const paintable = chart.filter((p) => !p.name.startsWith("iris"));
  const fixed = Object.values(places).filter((p) => chart.find((c) => c.name === p)?.fixed).length;
  if (!open)
    return (
      <Section
        title="Colour dots"
        aside={
          <Plain size="2xs" onClick={() => set({ open: true })}>
            Open
          </Plain>
        }
      >
        <Text fontSize="sm" color="dim">
          {layout
            ? `${count} dots of ${take.body.performer} are picked: ${body!.name}.`
            : "For a face with painted dots: pick each once, follow them in all of the day's clips."}
        </Text>
      </Section>
    );
  return (
    <>
      <Section
        title="Colour dots"
        aside={
          <Flex gap="1">
            <Plain size="2xs" disabled={asking || !ready} onClick={() => void begin()}>
              New from this clip
            </Plain>
            <Plain size="2xs" onClick={() => set({ open: false, picking: null })}>
              Close
            </Plain>
          </Flex>
        }
      >
        {!layout || !body ? (
          <Text color="dim">
            Choose a picture with a still face, then "New from this clip": a place is offered on the face chart, click
            its dot in the picture, and so on.
          </Text>
        ) : (
          <Box data-testid="dot-panel">
            <Flex align="center" gap="2" py="0.5">
              <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
                Dots
              </Text>
              <NativeSelect.Root size="xs">
                <NativeSelect.Field
                  aria-label="Dots"
                  value={layout.id}
                  onChange={(e) => set((s) => ({ chosen: { ...s.chosen, [take.id]: e.target.value }, picking: null }))}
                >
                  {layouts.map((l) => (
                    <option key={l.id} value={l.id}>
                      {l.body.name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Flex>
            <Flex align="center" gap="2" py="0.5">
              <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
                What moves
              </Text>
              <NativeSelect.Root size="xs">
                <NativeSelect.Field
                  aria-label="What moves before the dots' camera"
                  value={body.moves}
                  onChange={(e) =>
                    void change("what moves before the camera", { moves: e.target.value as DotsBody["moves"] })
                  }
                >
                  <option value="neither">neither: a head mount</option>
                  <option value="head">the head, the camera stands</option>
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Flex>
            <TextField label="Name" value={body.name} onCommit={(name) => void change("name the dots", { name })} />
            <Flex gap="2" mt="1.5" mb="1" align="center">
              <Primary disabled={busy || !ready || count < FEWEST} onClick={solve}>
                Follow and solve
              </Primary>
              <Text fontSize="sm" color="dim">
                {count} dots, {fixed} carry the head
              </Text>
            </Flex>
            {own ? (
              <>
                <Box mt="2" borderWidth="1px" borderColor="line" borderRadius="sm" bg="bg.lane" p="1.5">
                  <FaceChart
                    chart={paintable}
                    places={places}
                    off={[]}
                    selected={held ?? null}
                    onPlace={(place) => set({ picking: place })}
                  />
                </Box>
                <Flex mt="1.5" gap="2" align="center" minH="24px">
                  <Text flex="1" fontSize="sm" truncate>
                    {picking ? (
                      <>
                        {held ? <b>{held}</b> : "Next:"} {picking}
                        {held ? ", click again to move it" : ", click its dot"}
                      </>
                    ) : (
                      "Choose a place, then click its dot in the picture."
                    )}
                  </Text>
                  {held && (
                    <Plain
                      size="2xs"
                      disabled={asking}
                      onClick={() =>
                        void change(`take ${held} off`, {
                          dots: Object.fromEntries(Object.entries(body.dots).filter(([l]) => l !== held)),
                        })
                      }
                    >
                      Take off
                    </Plain>
                  )}
                </Flex>
                <Flex gap="3" mt="1" wrap="wrap">
                  <Toggle
                    label="Mirror"
                    on={mirror}
                    onChange={(on) => set({ mirror: on })}
                    hint="The partner on the other side is looked for"
                  />
                  <Toggle label="Show what is of their colours" on={mask} onChange={(on) => set({ mask: on })} />
                </Flex>
                <AmountField
                  label="Tolerance"
                  value={body.tolerance}
                  low={0.02}
                  high={0.3}
                  step={0.005}
                  rest={0.09}
                  hint="How far a colour may be off and still be the dot's"
                  onDrag={(v) => set({ tolerance: v })}
                  onCommit={(v) => {
                    set({ tolerance: null });
                    void change("tolerance of the dots", { tolerance: v });
                  }}
                />
                <AmountField
                  label="Lens"
                  value={body.fov}
                  low={20}
                  high={120}
                  step={1}
                  unit="°"
                  hint="From the top of the picture to its bottom"
                  onDrag={() => undefined}
                  onCommit={(v) => void change("lens of the dots", { fov: v })}
                />
                <NeutralFrames
                  neutral={body.neutral}
                  of=" of the dots"
                  onCommit={(neutral) => void change("move neutral", { neutral })}
                />
                <Flex mt="1" justify="space-between" align="center">
                  <Text fontSize="sm">{Object.keys(body.samples).length || "No"} expression samples</Text>
                  <Plain
                    size="2xs"
                    disabled={asking || busy || count < FEWEST}
                    title="For a range of motion: the frame of each expression's extreme"
                    onClick={() => void ask(() => api.dotSamples(layout.id))}
                  >
                    Find samples
                  </Plain>
                </Flex>
              </>
            ) : (
              <Text fontSize="sm" color="dim">
                Picked in another clip of the day; here they are followed as they are.
              </Text>
            )}
            {solved && <SolvedDots report={solved.report} places={places} />}
            {solved?.sure && solved.layout === layout.id && (
              <DotTracks
                layout={layout.id}
                report={solved.report}
                sure={solved.sure}
                places={places}
                busy={busy}
                onSolve={solve}
              />
            )}
          </Box>
        )}
      </Section>
      {layout && body && own && count > 1 && (
        <DriveRows
          what="dots"
          drives={body.drives}
          labels={Object.keys(places)}
          named={(l) => places[l] || l}
          usual={[on("upper lip mid"), on("chin pad") ?? on("lower lip mid")]}
          onKeep={(label, drives) => void change(label, { drives })}
        />
      )}
    </>
  );
}

function SolvedDots({ report, places }: { report: DotsReport; places: Record<string, string> }) {
  return (
    <Box mt="2.5" data-testid="dots-report">
      <Flex justify="space-between" fontSize="xs" color="dim">
        <Text>In this solve, worst first</Text>
        <Text>typically {report.residual.toFixed(2)} mm off</Text>
      </Flex>
      {report.worst.slice(0, 5).map((r) => (
        <Flex key={r.label} fontSize="sm" justify="space-between">
          <Text truncate>
            {r.label}{" "}
            <Text as="span" color="dim">
              {places[r.label] ?? ""}
            </Text>
          </Text>
          <Text fontFamily="number">
            {r.typical.toFixed(2)} mm, seen {(r.seen * 100).toFixed(0)}%
          </Text>
        </Flex>
      ))}
      <Text mt="1" fontSize="sm" color="dim">
        {report.seen.well?.length ?? 0} shapes are seen well, {report.seen.weakly?.length ?? 0} weakly; the others are
        left alone.{report.swaps.length ? ` ${report.swaps.length} changed names were put right.` : ""}
      </Text>
    </Box>
  );
}
