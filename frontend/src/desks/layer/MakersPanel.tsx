// Makers of the open layer: recipes that write its curves anew, their settings, and ending them in keys.
import { Box, Flex, Text } from "@chakra-ui/react";
import { freshId, leafChanges, pathOf } from "../../api/changes";
import { api, type LayerDoc, type MakerInfo } from "../../api/client";
import { ParameterForm } from "../../drawer/ParameterForm";
import { Plain, Primary, Section, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useCatalogue } from "../../shared/catalogue";
import { isTouchup } from "../../workspace/rig";
import type { ShotState } from "../../workspace/state";
import { activeShot, useOpen } from "../../workspace/workspace";
import { Aims } from "./Aims";
import { choicesOf, takeLooks } from "./aims";
import { ProfileEditor } from "./ProfileEditor";
import { replaceBlinks } from "./replaceBlinks";

export function MakersPanel() {
  const { shot, selected } = useOpen("shot", "selected");
  const { makers } = useCatalogue();
  const layer = shot?.opened.layers.find((l) => l.id === shot.layer);
  const add = (maker: MakerInfo) => {
    const own = layer!.body.makers;
    const rank = Math.max(0, ...Object.values(own).map((m) => m.rank)) + 1;
    void activeShot()?.edit(layer!.id, `make ${maker.name}`, [
      { path: pathOf("makers", freshId("m")), value: { maker: maker.name, rank } },
    ]);
  };
  return (
    <>
      <Section title="At once">
        <Plain onClick={() => void replaceBlinks()}>Replace the captured blinks</Plain>
        <Text fontSize="sm" color="dim" mt="1">
          Takes them out and makes them anew at the same moments, in a layer of their own; squint and look stay.
        </Text>
      </Section>
      {shot && <Aims shot={shot} />}
      {!layer && (
        <Text p="3" color="dim">
          Open a layer, or add one at Layers: a maker writes into it.
        </Text>
      )}
      {layer && isTouchup(layer) && (
        <Text p="3" color="dim">
          {layer.body.name} touches up the rig. Makers write into the performance: open a layer beneath the cast sheet.
        </Text>
      )}
      {layer && !isTouchup(layer) && (
        <Section
          title={`In ${layer.body.name}`}
          aside={
            <Flex gap="1">
              {makers.map((m) => (
                <Plain key={m.name} size="2xs" title={m.help} onClick={() => add(m)}>
                  {m.label}
                </Plain>
              ))}
            </Flex>
          }
        >
          {!Object.keys(layer.body.makers).length && <Text color="dim">No maker in this layer yet.</Text>}
          {Object.entries(layer.body.makers)
            .sort(([, a], [, b]) => a.rank - b.rank)
            .map(([key, entry]) => (
              <Maker
                key={key}
                layer={layer}
                name={key}
                entry={entry}
                info={makers.find((m) => m.name === entry.maker)}
                selected={selected}
                aims={choicesOf(shot!)}
                shot={shot!}
              />
            ))}
        </Section>
      )}
    </>
  );
}

type Entry = LayerDoc["body"]["makers"][string];
type Props = {
  layer: LayerDoc;
  name: string;
  entry: Entry;
  info: MakerInfo | undefined;
  selected: string[];
  aims: ReturnType<typeof choicesOf>;
  shot: ShotState;
};

function Maker({ layer, name, entry, info, selected, aims, shot }: Props) {
  if (!info) return null;
  const path = pathOf("makers", name);
  const values = entry as unknown as Record<string, unknown>;
  const changes = (next: Record<string, unknown>) =>
    leafChanges(values, next).map((c) => ({ ...c, path: `${path}/${c.path}` }));
  const edit = (label: string, wanted: Parameters<NonNullable<ReturnType<typeof activeShot>>["edit"]>[2]) =>
    void activeShot()?.edit(layer.id, label, wanted);
  return (
    <Box mb="3" data-testid="maker">
      <Flex justify="space-between" align="center" mb="1.5">
        <Toggle
          label={info.label}
          on={entry.on}
          onChange={(on) => edit(on ? `${info.label} on` : `${info.label} off`, [{ path: `${path}/on`, value: on }])}
        />
        <Plain size="2xs" onClick={() => edit(`remove ${info.label}`, [{ path, remove: true }])}>
          Remove
        </Plain>
      </Flex>
      <ParameterForm
        parameters={info.parameters}
        values={values}
        selected={selected}
        aims={aims}
        profiles={Object.keys(shot.opened.profiles?.body.profiles ?? {})}
        onDrag={(next) => void activeShot()?.preview({ layers: { [layer.id]: changes(next) } })}
        onCommit={(label, next) => edit(`${info.label}: ${label}`, changes(next))}
      />
      {info.name === "blinks" && (
        <>
          <ProfileEditor
            shot={shot}
            name={String(values.profile ?? "plain")}
            onName={(profile) => edit("Blinks: Profile", [{ path: `${path}/profile`, value: profile }])}
          />
          <Plain
            title="The blink at the playhead becomes keys, to be changed by hand; it follows its profile no longer"
            onClick={() =>
              void activeShot()?.changeLayer(layer.id, (l) => api.looseBlink(l.id, name, l.version, clock.frame))
            }
          >
            Loosen the blink here
          </Plain>
        </>
      )}
      {info.name === "gaze" && (
        <Plain
          title="Finds where the captured eyes hold, and puts a look at the nearest aim there"
          onClick={() => void takeLooks(layer, name)}
        >
          Take the looks of the capture
        </Plain>
      )}
      <Primary
        title="Ends the recipe and leaves its keys"
        onClick={() => void activeShot()?.changeLayer(layer.id, (l) => api.endMaker(l.id, name, l.version))}
      >
        Make keys of it
      </Primary>
    </Box>
  );
}
