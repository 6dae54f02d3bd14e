// Layers of the role that is worked on: which there are, and how much of each and of the capture counts.
import { Box, Flex, IconButton, Text } from "@chakra-ui/react";
import { Eye, EyeOff, Headphones, Lock, LockOpen, Plus } from "lucide-react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { pathOf } from "../../api/changes";
import { api, type LayerDoc } from "../../api/client";
import { Plain, Section } from "../../drawer/parts";
import { useRange } from "../../playback/useClock";
import { isLight } from "../../shared/colourMode";
import { notify } from "../../shared/notices";
import { colourOf, REGIONS } from "../../shared/regions";
import { useTravels } from "../../workspace/regions";
import { isTouchup } from "../../workspace/rig";
import { faceLayersOf, layersOf, nameOfRole } from "../../workspace/state";
import { activeShot, useOpen } from "../../workspace/workspace";
import { addLayer, addTouchup, bakeLayers } from "./layerCommands";
import { chooseSpan, editLayer, put } from "./layerState";
import { inFolders, lettersOf, rankAbove } from "./shotModel";
import { WeightField } from "../../drawer/WeightField";
import { OpenLayer } from "./OpenLayer";

const FACE = REGIONS.filter((r) => r.name !== "extra");
const DOES = { add: "adds", replace: "replaces", scale: "scales" } as const;

export function LayersPanel() {
  const { shot } = useOpen("shot");
  if (!shot?.role)
    return (
      <Text p="3" color="dim">
        Put a clip in first: a layer lies on a role.
      </Text>
    );
  const layers = layersOf(shot, shot.role);
  const open = layers.find((l) => l.id === shot.layer) ?? null;
  const plays = shot.opened.shot.body.roles[shot.role]!.character;
  const of = ({ body }: LayerDoc) =>
    body.character && body.character !== plays
      ? (shot.opened.characters.find((c) => c.id === body.character)?.body.name ?? "another character")
      : "";
  const add = (
    <Flex gap="1" mb="1.5" align="center" role="group" aria-label="New layer">
      {(["add", "replace", "scale"] as const).map((does) => (
        <Plain key={does} size="2xs" title={`A new layer that ${DOES[does]}`} onClick={() => addLayer(does)}>
          <Plus size={11} /> {does}
        </Plain>
      ))}
      <Plain
        size="2xs"
        title="A new layer on the character's own targets and joints, after the cast sheet"
        onClick={addTouchup}
      >
        <Plus size={11} /> touch-up
      </Plain>
    </Flex>
  );
  return (
    <>
      <Section title={`Layers on ${nameOfRole(shot, shot.role)}`}>
        {add}
        {!layers.length && (
          <Text color="dim">No layer yet. What you change goes into a layer; the capture beneath stays as it is.</Text>
        )}
        {[layers.filter(isTouchup), faceLayersOf(shot, shot.role)].map((kind, n) => (
          <Box key={n === 0 ? "touch-up" : "performance"}>
            {n === 1 && kind.length < layers.length && <Divide>the cast sheet</Divide>}
            {inFolders(kind).map(({ folder, own }) => (
              <Folder key={own[0]!.id} name={folder} layers={own}>
                {own.map((layer) => (
                  <LayerRow
                    key={layer.id}
                    layer={layer}
                    layers={layers}
                    open={layer.id === shot.layer}
                    of={of(layer)}
                  />
                ))}
              </Folder>
            ))}
          </Box>
        ))}
        {layers.length > 0 && <Divide>the capture</Divide>}
        {layers.length > 0 && <Bake shot={shot.opened.shot.id} />}
      </Section>
      {open && <OpenLayer key={open.id} layer={open} />}
      <Capture />
    </>
  );
}

/** Layers of one folder under its name, as long as they lie beside each other; they fold, and are left out together. */
function Folder({ name, layers, children }: { name: string; layers: LayerDoc[]; children: React.ReactNode }) {
  const [folded, setFolded] = useState(false);
  if (!name) return <>{children}</>;
  const heard = layers.some((l) => !l.body.mute);
  const all = () => {
    const label = heard ? "leave a layer out" : "count a layer";
    for (const l of layers) if (l.body.mute !== heard) editLayer(l, label, put("mute", heard));
  };
  return (
    <Box data-testid="layer-folder">
      <Flex align="center" gap="1" px="1.5" py="0.5">
        <Box
          as="button"
          flex="1"
          textAlign="left"
          fontSize="sm"
          color="dim"
          cursor="pointer"
          aria-expanded={!folded}
          onClick={() => setFolded(!folded)}
        >
          {folded ? "▸" : "▾"} {name} {folded && `(${layers.length})`}
        </Box>
        <Switch label={heard ? `Leave ${name} out` : `Count ${name}`} on={heard} onClick={all}>
          {heard ? <Eye size={13} /> : <EyeOff size={13} />}
        </Switch>
      </Flex>
      {!folded && (
        <Box borderLeftWidth="2px" borderColor="line" ml="1.5">
          {children}
        </Box>
      )}
    </Box>
  );
}

const DRAGGED = "application/x-dynaface-layer";

type RowProps = { layer: LayerDoc; layers: LayerDoc[]; open: boolean; of: string };

/** of: whom a touch-up layer waits for, where another character plays the role. */
function LayerRow({ layer, layers, open, of }: RowProps) {
  const { body } = layer;
  const [over, setOver] = useState(false);
  return (
    <Flex
      align="center"
      gap="1"
      px="1.5"
      py="1"
      borderRadius="sm"
      bg={open ? "bg.raised" : undefined}
      boxShadow={open ? "inset 3px 0 0 {colors.accent}" : undefined}
      borderTopWidth="2px"
      borderColor={over ? "accent" : "transparent"}
      data-testid="layer-row"
      draggable
      title="Drag it to another place in the order"
      onDragStart={(e) => e.dataTransfer.setData(DRAGGED, layer.id)}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes(DRAGGED)) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const moved = layers.find((l) => l.id === e.dataTransfer.getData(DRAGGED));
        const rank = moved && rankAbove(layers, moved.id, layer.id);
        if (moved && rank !== null) editLayer(moved, `order of ${moved.body.name}`, put("rank", rank));
      }}
    >
      <Box
        as="button"
        flex="1"
        minW="0"
        textAlign="left"
        cursor="pointer"
        aria-pressed={open}
        onClick={() => {
          activeShot()?.openLayer(layer.id);
          chooseSpan(null);
        }}
      >
        <Text truncate color={body.mute || of ? "dim" : "ink"}>
          {body.name}{" "}
          <Text as="span" color="dim" fontSize="sm">
            {of ? `waits for ${of}` : `${DOES[body.does]} ${isTouchup(layer) ? "on the rig" : lettersOf(body.regions)}`}
          </Text>
        </Text>
      </Box>
      <Switch
        label={body.mute ? "Count this layer" : "Leave this layer out"}
        on={!body.mute}
        onClick={() => editLayer(layer, body.mute ? "count a layer" : "leave a layer out", put("mute", !body.mute))}
      >
        {body.mute ? <EyeOff size={13} /> : <Eye size={13} />}
      </Switch>
      <Switch
        label="This layer alone"
        on={body.solo}
        onClick={() => editLayer(layer, "a layer alone", put("solo", !body.solo))}
      >
        <Headphones size={13} />
      </Switch>
      <Switch
        label={body.locked ? "Unlock" : "Lock"}
        on={body.locked}
        onClick={() => editLayer(layer, body.locked ? "unlock a layer" : "lock a layer", put("locked", !body.locked))}
      >
        {body.locked ? <Lock size={13} /> : <LockOpen size={13} />}
      </Switch>
    </Flex>
  );
}

function Switch({
  label,
  on,
  onClick,
  children,
}: {
  label: string;
  on: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <IconButton
      aria-label={label}
      title={label}
      aria-pressed={on}
      size="2xs"
      variant="ghost"
      color={on ? "ink" : "dim"}
      onClick={onClick}
    >
      {children}
    </IconButton>
  );
}

/** What lies between the layers above it and those below. */
const Divide = ({ children }: { children: string }) => (
  <Text px="1.5" py="1" color="dim" fontSize="sm" borderTopWidth="1px" borderColor="line" mt="1">
    {children}
  </Text>
);

/** What the layers make becomes keys of one layer, or a take; the layers stay beneath. */
function Bake({ shot }: { shot: string }) {
  const range = useRange();
  const client = useQueryClient();
  const take = () =>
    api.bakeTake(shot, activeShot()!.shot!.role).then(
      (made) => {
        notify({ kind: "info", message: `${made.body.slate} is a take now, at Gather` });
        return client.invalidateQueries({ queryKey: ["takes"] });
      },
      (error: unknown) => notify(error as never),
    );
  return (
    <Flex gap="1" mt="2" wrap="wrap">
      <Plain
        size="2xs"
        title="One layer of keys on top, within 0.005; the layers beneath stay and can be had back"
        onClick={bakeLayers}
      >
        {range ? `Bake ${range.from} to ${range.to}` : "Bake to keys"}
      </Plain>
      <Plain size="2xs" title="What this role does, as a take of its own" onClick={() => void take()}>
        Bake to a take
      </Plain>
    </Flex>
  );
}

/** How much of the capture counts, region by region, and of how far the head went beside how it turned. */
function Capture() {
  const { shot } = useOpen("shot");
  const travels = useTravels();
  const role = shot!.opened.shot.body.roles[shot!.role]!;
  const parts = FACE.map((r) => ({ name: r.name as string, label: r.name as string, region: r.name }));
  if (travels) parts.push({ name: "travel", label: "head travel", region: "head" });
  return (
    <Section title="Capture counts">
      {parts.map(({ name, label, region }) => (
        <WeightField
          key={name}
          label={label}
          mark={colourOf(region, isLight())}
          path={pathOf("roles", shot!.role, "capture", name)}
          weight={role.capture[name]}
          onTry={(changes) => void activeShot()?.preview({ shot: changes })}
          onKeep={(changes) => void activeShot()?.edit(shot!.opened.shot.id, `capture of ${label}`, changes)}
        />
      ))}
    </Section>
  );
}
