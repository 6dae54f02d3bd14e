// The marker layout of the day: proposed from a take, corrected on the face chart, mirrored, kept with undo.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { notify } from "../../shared/notices";
import { Plain, Section, TextField, Toggle } from "../../drawer/parts";
import { useCame } from "../../markers/cloud";
import { carried, cloudOf, meanOf, partnerOf } from "../../markers/geometry";
import { changeBeside, placedOn, useLayout, useMarkers, without, type LayoutBody } from "../../markers/layouts";
import { clock } from "../../playback/clock";
import { tellHistory, useOpen } from "../../workspace/workspace";
import { FaceChart } from "./FaceChart";
import { NeutralFrames } from "./NeutralFrames";

export function LayoutPanel({ busy }: { busy: boolean }) {
  const { opened } = useOpen("opened");
  const take = opened!.take;
  const source = opened!.sources.markers!;
  const client = useQueryClient();
  const { layouts, layout, body, study, doubt, chart } = useLayout();
  const raw = useCame();
  const { selected } = useMarkers();
  const [mirror, setMirror] = useState(true);
  const [asking, setAsking] = useState(false);
  const ask = async (work: () => Promise<unknown>) => {
    setAsking(true);
    try {
      await work();
    } catch (error) {
      notify(error as never);
    }
    await client.invalidateQueries({ queryKey: ["layouts"] });
    await client.invalidateQueries({ queryKey: ["jobs"] });
    tellHistory();
    setAsking(false);
  };
  const begin = () =>
    ask(async () => {
      const made = await api.newLayout(
        take.id,
        `${take.body.performer || "Performer"}, ${new Date().toISOString().slice(0, 10)}`,
        null,
      );
      useMarkers.setState((s) => ({ chosen: { ...s.chosen, [take.id]: made.id } }));
    });
  const change = (label: string, wished: Partial<LayoutBody>) => ask(() => changeBeside(layout!, label, body!, wished));
  const labels = raw?.labels ?? [];
  const own = body?.markers === source.id;
  const onPlace = (place: string) => {
    if (!body || !layout) return;
    const held = Object.entries(body.places).find(([, p]) => p === place)?.[0];
    if (!selected || held === selected || !labels.includes(selected)) {
      useMarkers.setState({ selected: held ?? null });
      return;
    }
    const other = chart.find((p) => p.name === place)!.mirrored;
    const partner =
      mirror && other !== place && raw && study
        ? partnerOf(
            labels,
            carried(cloudOf(labels, { data: meanOf(raw, ...body.neutral), shape: [1, labels.length, 3] }), study)
              .points,
            selected,
          )
        : null;
    void change(`${selected} on ${place}`.slice(0, 120), {
      places: placedOn(body.places, selected, place, partner ? { label: partner, place: other } : null),
      off: without(body.off, selected, partner),
    });
  };
  const loose = labels.filter((l) => !body?.places[l]);
  const place = selected ? body?.places[selected] : undefined;
  const sampled = Object.entries(body?.samples ?? {}).sort((a, b) => a[1] - b[1]);
  return (
    <Section
      title="Marker layout"
      aside={
        <Plain size="2xs" disabled={asking} onClick={() => void begin()}>
          New from this take
        </Plain>
      }
    >
      {!layout || !body ? (
        <Text color="dim">
          Which marker sits on which place of the face, once for {take.body.performer || "the performer"} and the day.
          "New from this take" looks for the stillest half second and proposes all places at once, whatever the markers
          are called and however the stage stands.
        </Text>
      ) : (
        <Box data-testid="layout-panel">
          <Flex align="center" gap="2" py="0.5">
            <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
              Layout
            </Text>
            <NativeSelect.Root size="xs">
              <NativeSelect.Field
                aria-label="Marker layout"
                value={layout.id}
                onChange={(e) => useMarkers.setState((s) => ({ chosen: { ...s.chosen, [take.id]: e.target.value } }))}
              >
                {layouts.map((l) => (
                  <option key={l.id} value={l.id}>
                    {l.body.name}
                    {l.body.performer !== take.body.performer ? ` (${l.body.performer})` : ""}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Flex>
          <TextField label="Name" value={body.name} onCommit={(name) => void change("name the layout", { name })} />
          {own && (
            <NeutralFrames neutral={body.neutral} onCommit={(neutral) => void change("move neutral", { neutral })} />
          )}
          <Text fontSize="sm" mt="1">
            {Object.keys(body.places).filter((l) => labels.includes(l)).length} of {labels.length} markers on places
            {study ? `, ${study.fixed} carry the head` : ""}.
          </Text>
          {[doubt, ...(study?.doubts ?? [])]
            .filter((words) => words)
            .map((words) => (
              <Text key={words} fontSize="sm" color="accent">
                {words[0]!.toUpperCase() + words.slice(1)}.
              </Text>
            ))}
          <Box mt="2" borderWidth="1px" borderColor="line" borderRadius="sm" bg="bg.lane" p="1.5">
            <FaceChart
              chart={chart}
              places={body.places}
              off={Object.keys(body.off)}
              selected={selected}
              onPlace={onPlace}
            />
          </Box>
          <Flex mt="2" gap="2" align="center" minH="24px">
            {selected && labels.includes(selected) ? (
              <>
                <Text flex="1" fontSize="sm" truncate>
                  <b>{selected}</b> {place ?? "has no place: click one above"}
                </Text>
                {place && (
                  <Plain
                    size="2xs"
                    disabled={asking}
                    onClick={() =>
                      void change(`take ${selected} off`.slice(0, 120), {
                        places: placedOn(body.places, selected, null),
                        off: without(body.off, selected),
                      })
                    }
                  >
                    Take off
                  </Plain>
                )}
              </>
            ) : (
              <Text flex="1" fontSize="sm" color="dim">
                Choose a marker in the view or a place here.
              </Text>
            )}
          </Flex>
          <Flex gap="2" mt="1.5" wrap="wrap" align="center">
            <Toggle label="Mirror" on={mirror} onChange={setMirror} hint="The partner on the other side goes with it" />
            {own && (
              <Plain size="2xs" disabled={asking} onClick={() => void ask(() => api.proposePlaces(layout.id))}>
                Propose all
              </Plain>
            )}
            <Plain
              size="2xs"
              disabled={asking || !Object.keys(body.places).length}
              onClick={() => void change("clear the layout", { places: {}, off: {} })}
            >
              Clear
            </Plain>
          </Flex>
          {loose.length > 0 && (
            <Flex gap="1" wrap="wrap" mt="2">
              <Text fontSize="xs" color="dim" w="100%">
                On no place, ignored ({loose.length})
              </Text>
              {loose.slice(0, 24).map((l) => (
                <Plain
                  key={l}
                  size="2xs"
                  fontSize="xs"
                  h="18px"
                  px="1.5"
                  borderColor={l === selected ? "accent" : "line"}
                  onClick={() => useMarkers.setState({ selected: l })}
                >
                  {l}
                </Plain>
              ))}
            </Flex>
          )}
          <Flex mt="2.5" justify="space-between" align="center">
            <Text fontSize="sm">
              {sampled.length ? `${sampled.length} expression samples` : "No expression samples"}
            </Text>
            <Plain
              size="2xs"
              disabled={asking || busy}
              title="Solves the take that the layout was made from, a range of motion, and takes the frame of each expression's extreme"
              onClick={() => void ask(() => api.markerSamples(layout.id))}
            >
              Find samples
            </Plain>
          </Flex>
          {sampled.length > 0 && own && (
            <Flex gap="1" wrap="wrap" mt="1.5" maxH="96px" overflowY="auto">
              {sampled.map(([shape, frame]) => (
                <Sample
                  key={shape}
                  shape={shape}
                  frame={frame}
                  onDrop={() =>
                    void change(`drop ${shape}`, { samples: Object.fromEntries(sampled.filter(([s]) => s !== shape)) })
                  }
                />
              ))}
            </Flex>
          )}
        </Box>
      )}
    </Section>
  );
}

function Sample({ shape, frame, onDrop }: { shape: string; frame: number; onDrop: () => void }) {
  return (
    <Flex borderWidth="1px" borderColor="line" borderRadius="2px" fontSize="xs" align="center">
      <Box as="button" px="1.5" cursor="pointer" title={`Show frame ${frame}`} onClick={() => clock.seekFrame(frame)}>
        {shape}{" "}
        <Text as="span" color="dim">
          {frame}
        </Text>
      </Box>
      <Box as="button" px="1" cursor="pointer" color="dim" aria-label={`Drop the sample of ${shape}`} onClick={onDrop}>
        ×
      </Box>
    </Flex>
  );
}
