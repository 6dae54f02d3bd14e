// What is chosen in the deck: a clip of a role, or one of the shot's own sounds.
import { Flex, Text } from "@chakra-ui/react";
import { freshId } from "../../api/changes";
import { api, type Change, type Placement } from "../../api/client";
import { AmountField, Plain, Section, Toggle } from "../../drawer/parts";
import { exact, framesOf, secondsOf, sum, toNumber } from "../../shared/seconds";
import { type ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { joinNext, letSoundGo, removeChosen, splitHere, takeOut } from "./layerCommands";
import { ClipParts } from "./ClipParts";
import { choosePlacement } from "./layerState";
import { lengthOf, placementPath, slipped } from "./shotModel";
import { WeightField } from "../../drawer/WeightField";

type ChosenProps = { shot: ShotState; role: string; name: string; placement: Placement };

export function Chosen({ shot, role, name, placement: p }: ChosenProps) {
  const { body, id } = shot.opened.shot;
  const { rate } = body;
  const clip = shot.opened.clips.find((c) => c.id === p.clip);
  const base = placementPath(role, name);
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  const attempt = (changes: Change[]) => void (shot.role === role && activeShot()?.preview({ shot: changes }));
  const put = (field: string, value: unknown): Change[] => [{ path: `${base}/${field}`, value }];
  const frames = (field: "start" | "fadeIn" | "fadeOut" | "seam", label: string, high: number, step = 1) => (
    <AmountField
      label={label}
      unit="frames"
      value={Math.round(framesOf(p[field], rate) * 1000) / 1000}
      rest={field === "start" ? undefined : 0}
      low={0}
      high={high}
      step={step}
      onDrag={(v) => attempt(put(field, secondsOf(v, rate)))}
      onCommit={(v) => edit(`${label.toLowerCase()} of a clip`, put(field, secondsOf(v, rate)))}
    />
  );
  const changed = p.seen && shot.takes[p.clip] && shot.takes[p.clip] !== p.seen;
  const total = Math.max(Math.round(framesOf(body.length, rate)), 1);
  return (
    <Section
      title={clip?.name ?? "Clip"}
      aside={
        <Text fontSize="sm" color="dim">
          {clip?.slate} {clip?.performer}
        </Text>
      }
    >
      <Flex gap="1" wrap="wrap" mb="2">
        <Plain size="2xs" title="Split at the playhead (X)" onClick={splitHere}>
          Split here
        </Plain>
        <Plain size="2xs" title="With the part that goes on behind it (Shift+X)" onClick={joinNext}>
          Join
        </Plain>
        <Plain size="2xs" title="What lies behind closes up (Shift+Delete)" onClick={takeOut}>
          Take out
        </Plain>
        <Plain size="2xs" title="What lies behind stays (Delete)" onClick={removeChosen}>
          Remove
        </Plain>
        <Plain size="2xs" title="A further one of the same clip, behind it" onClick={() => again(shot, role, p)}>
          Again
        </Plain>
        <Plain size="2xs" title="Its sound can then be moved by itself" disabled={!p.sound} onClick={letSoundGo}>
          Let the sound go
        </Plain>
        {clip && (
          <Plain
            size="2xs"
            title={
              clip.frozen
                ? "It shows its take as it was; every use of the clip follows again"
                : "Whatever becomes of its take, every use of this clip stays as it is now"
            }
            onClick={() => void activeShot()?.changeBeside(() => api.holdClip(clip.id, clip.version, !clip.frozen))}
          >
            {clip.frozen ? "Follow the take" : "Hold as it is"}
          </Plain>
        )}
      </Flex>
      {changed && !clip?.frozen && (
        <Flex justify="space-between" align="center" gap="2" mb="1">
          <Text fontSize="sm" color="accent">
            Its take has changed since; the clip follows it.
          </Text>
          <Plain size="2xs" onClick={() => edit("look at a changed take", put("seen", shot.takes[p.clip]))}>
            Seen
          </Plain>
        </Flex>
      )}
      {clip?.body && (
        <ClipParts
          role={role}
          name={name}
          placement={p}
          others={body.roles[role]!.placements}
          onKeep={edit}
          put={put}
        />
      )}
      {frames("start", "Begins at", total, 0.25)}
      <AmountField
        label="Speed"
        unit="×"
        value={toNumber(p.speed)}
        rest={1}
        low={0.25}
        high={4}
        step={0.01}
        onDrag={(v) => attempt(put("speed", exact(v)))}
        onCommit={(v) => edit("speed of a clip", put("speed", exact(v)))}
      />
      <AmountField
        label="Passes"
        value={toNumber(p.repeats)}
        rest={1}
        low={0.1}
        high={20}
        step={0.1}
        onDrag={(v) => attempt(put("repeats", exact(v)))}
        onCommit={(v) => edit("repeat a clip", put("repeats", exact(v)))}
      />
      {p.repeats !== "1" && frames("seam", "Seam", 60)}
      <AmountField
        label="Slip"
        unit="frames"
        value={0}
        low={-240}
        high={240}
        step={1}
        hint="The content moves inside the clip's edges"
        onDrag={(v) => attempt(slipped(base, p, v, rate, clip?.seconds ?? 0))}
        onCommit={(v) => edit("slip a clip", slipped(base, p, v, rate, clip?.seconds ?? 0))}
      />
      {frames("fadeIn", "Fade in", 120)}
      {frames("fadeOut", "Fade out", 120)}
      <WeightField
        label="Weight"
        path={`${base}/weight`}
        weight={p.weight}
        onTry={attempt}
        onKeep={(changes) => edit("weight of a clip", changes)}
      />
      <Flex gap="4" mt="1">
        <Toggle
          label="Seen"
          on={!p.mute}
          onChange={(on) => edit(on ? "show a clip" : "leave a clip out", put("mute", !on))}
        />
        <Toggle
          label="Sound"
          on={p.sound}
          onChange={(on) => edit(on ? "hear a clip" : "a clip without sound", put("sound", on))}
        />
        <Flex align="center" gap="1">
          <Text fontSize="sm" color="dim">
            Lane
          </Text>
          {[0, 1, 2].map((lane) => (
            <Plain
              key={lane}
              size="2xs"
              aria-pressed={p.lane === lane}
              color={p.lane === lane ? "accent" : "ink"}
              onClick={() => edit("lane of a clip", put("lane", lane))}
            >
              {lane + 1}
            </Plain>
          ))}
        </Flex>
      </Flex>
    </Section>
  );
}

/** One of the shot's own sounds. */
export function ChosenSound({ shot, name }: { shot: ShotState; name: string }) {
  const { body, id } = shot.opened.shot;
  const sound = body.sounds[name]!;
  const edit = (label: string, field: string, value: unknown) =>
    void activeShot()?.edit(id, label, [{ path: `${placementPath("", name)}/${field}`, value }]);
  const frames = (field: "start" | "fadeIn" | "fadeOut", label: string, low: number, high: number) => (
    <AmountField
      label={label}
      unit="frames"
      value={Math.round(framesOf(sound[field], body.rate) * 1000) / 1000}
      low={low}
      high={high}
      step={0.25}
      onDrag={() => undefined}
      onCommit={(v) => edit(`${label.toLowerCase()} of a sound`, field, secondsOf(v, body.rate))}
    />
  );
  const total = Math.max(Math.round(framesOf(body.length, body.rate)), 1);
  return (
    <Section
      title={sound.name || "Sound"}
      aside={
        <Plain size="2xs" onClick={removeChosen}>
          Remove
        </Plain>
      }
    >
      {frames("start", "Begins at", -total, total)}
      <AmountField
        label="Gain"
        unit="×"
        value={sound.gain}
        rest={1}
        low={0}
        high={4}
        step={0.05}
        onDrag={() => undefined}
        onCommit={(v) => edit("gain of a sound", "gain", v)}
      />
      {frames("fadeIn", "Fade in", 0, 120)}
      {frames("fadeOut", "Fade out", 0, 120)}
      <Toggle
        label="Heard"
        on={!sound.mute}
        onChange={(on) => edit(on ? "hear a sound" : "silence a sound", "mute", !on)}
      />
    </Section>
  );
}

function again(shot: ShotState, role: string, p: Placement) {
  const key = freshId("c");
  const value = { ...p, start: sum(p.start, lengthOf(p)) };
  choosePlacement({ role, key });
  void activeShot()?.edit(shot.opened.shot.id, "a clip again", [{ path: placementPath(role, key), value }]);
}
