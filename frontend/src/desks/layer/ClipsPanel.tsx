// Clips: what is chosen in the deck, the roles, and the reel of the production.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { freshId, pathOf } from "../../api/changes";
import { api, type Change, type ClipRow, type Placement } from "../../api/client";
import { AmountField, Fact, Plain, Section, TextField, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { exact, framesOf, secondsOf, sum, toNumber } from "../../shared/seconds";
import { rolesOf, type ShotState } from "../../workspace/state";
import { activeShot, useOpen } from "../../workspace/workspace";
import { joinNext, letSoundGo, makeRoom, removeChosen, splitHere, takeOut } from "./layerCommands";
import { choosePlacement, useLayerDesk } from "./layerState";
import { lengthOf, placementPath, slipped } from "./shotModel";
import { WeightField } from "./WeightField";

export function ClipsPanel() {
  const { shot } = useOpen("shot");
  const chosen = useLayerDesk((s) => s.placement);
  if (!shot) return null;
  const { body, id } = shot.opened.shot;
  const placement = chosen && body.roles[chosen.role]?.placements[chosen.key];
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  return (
    <>
      {chosen && body.sounds[chosen.key] && chosen.role === "" ? (
        <ChosenSound shot={shot} name={chosen.key} />
      ) : chosen && placement ? (
        <Chosen shot={shot} role={chosen.role} name={chosen.key} placement={placement} />
      ) : (
        <Section title="Clip">
          <Text color="dim">Press a clip in the deck: drag it, or drag its ends.</Text>
        </Section>
      )}
      <Section title="Shot">
        <TextField
          label="Name"
          value={body.name}
          onCommit={(v) => edit("name the shot", [{ path: "name", value: v }])}
        />
        <TextField
          label="Starts at"
          value={body.timecode}
          placeholder="timecode, none"
          onCommit={(v) => edit("start of the shot", [{ path: "timecode", value: v.trim() }])}
        />
        <AmountField
          label="Length"
          unit="frames"
          value={Math.round(framesOf(body.length, body.rate))}
          low={1}
          high={Math.max(Math.round(framesOf(body.length, body.rate)) * 2, 240)}
          step={1}
          onDrag={() => undefined}
          onCommit={(v) => edit("length of the shot", [{ path: "length", value: secondsOf(Math.round(v), body.rate) }])}
        />
        <Fact name="Rate">{body.rate} fps, chosen when the shot was begun</Fact>
        <Ends shot={shot} />
        <Plain
          size="2xs"
          mt="1"
          title="As much time as the marked range has, for all roles (Shift+R)"
          onClick={() => makeRoom()}
        >
          Make room
        </Plain>
        <Plain
          size="2xs"
          mt="1"
          ml="1"
          title="As much time as the marked range has, for the role that is worked on alone"
          onClick={() => makeRoom(shot.role)}
        >
          On this role alone
        </Plain>
      </Section>
      <Roles shot={shot} />
      <Reel shot={shot} />
    </>
  );
}

/** Sound that ends beyond the picture is said, not cut. */
function Ends({ shot }: { shot: ShotState }) {
  const { roles, length, sounds } = shot.opened.shot.body;
  const end = Math.max(
    0,
    ...Object.values(roles).flatMap((r) => Object.values(r.placements).map((p) => toNumber(sum(p.start, lengthOf(p))))),
    ...Object.values(sounds).map((s) => toNumber(s.start) + (toNumber(s.last) - toNumber(s.first)) / toNumber(s.speed)),
  );
  const over = end - toNumber(length);
  if (over < 0.01) return null;
  const trim = () =>
    void activeShot()?.edit(shot.opened.shot.id, "length of the shot", [
      { path: "length", value: exact(Math.ceil(end * 1000) / 1000) },
    ]);
  return (
    <Flex justify="space-between" align="center" gap="2">
      <Text fontSize="sm" color="accent">
        Clips or sounds go on {over.toFixed(2)} s beyond the end.
      </Text>
      <Plain size="2xs" onClick={trim}>
        Make it longer
      </Plain>
    </Flex>
  );
}

type ChosenProps = { shot: ShotState; role: string; name: string; placement: Placement };

function Chosen({ shot, role, name, placement: p }: ChosenProps) {
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
function ChosenSound({ shot, name }: { shot: ShotState; name: string }) {
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

function Roles({ shot }: { shot: ShotState }) {
  const { production = "" } = useParams();
  const characters =
    useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production) }).data ?? [];
  const { body, id } = shot.opened.shot;
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  return (
    <Section title="Roles">
      {rolesOf(shot).map((key) => {
        const role = body.roles[key]!;
        const at = (axis: 0 | 2, label: string) => (
          <AmountField
            label={label}
            unit="m"
            value={role.at[axis]}
            rest={0}
            low={-3}
            high={3}
            step={0.05}
            onDrag={() => undefined}
            onCommit={(v) =>
              edit("where a role stands", [
                { path: pathOf("roles", key, "at"), value: role.at.map((w, i) => (i === axis ? v : w)) },
              ])
            }
          />
        );
        return (
          <Box key={key} mb="2">
            <Flex align="center" gap="2" py="0.5">
              <Text w="86px" flexShrink={0} fontSize="sm" color={key === shot.role ? "accent" : "dim"} truncate>
                {role.performer || "nobody"}
              </Text>
              <NativeSelect.Root size="xs" flex="1">
                <NativeSelect.Field
                  aria-label={`Character of ${role.performer}`}
                  value={role.character ?? ""}
                  onChange={(e) =>
                    edit("swap the character", [
                      { path: pathOf("roles", key, "character"), value: e.target.value || null },
                    ])
                  }
                >
                  <option value="">no character</option>
                  {characters.map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Flex>
            {at(0, "To the side")}
            {at(2, "To the front")}
            <AmountField
              label="Turned"
              unit="deg"
              value={role.turn}
              rest={0}
              low={-180}
              high={180}
              step={1}
              onDrag={() => undefined}
              onCommit={(v) => edit("turn a role", [{ path: pathOf("roles", key, "turn"), value: v }])}
            />
          </Box>
        );
      })}
    </Section>
  );
}

/** All clips ever cut in the production; one goes in at the playhead on its performer's role. */
function Reel({ shot }: { shot: ShotState }) {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const version = shot.opened.shot.version;
  const reel = useQuery({ queryKey: ["reel", production, version], queryFn: () => api.reel(production) }).data ?? [];
  const takes = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? [];
  const put = (clip: ClipRow) => {
    const { body, id } = shot.opened.shot;
    const role = rolesOf(shot).find((k) => body.roles[k]!.performer === clip.performer);
    const placement = { clip: clip.id, start: secondsOf(clock.frame, body.rate), first: clip.first, last: clip.last };
    const key = freshId("c");
    const changes: Change[] = role
      ? [{ path: placementPath(role, key), value: placement }]
      : [
          {
            path: pathOf("roles", freshId("r")),
            value: {
              performer: clip.performer,
              rank: rolesOf(shot).length,
              at: [0.7 * rolesOf(shot).length, 0, 0],
              placements: { [key]: placement },
            },
          },
        ];
    void activeShot()?.edit(id, `put ${clip.name} in`.slice(0, 120), changes);
  };
  const cut = async (take: string) => {
    await api.newClip(take, "", "", "");
    await client.invalidateQueries({ queryKey: ["reel"] });
  };
  const open = takes.filter((t) => t.stages.solve && !t.archived);
  return (
    <Section
      title="Reel"
      aside={
        <NativeSelect.Root size="xs" w="140px">
          <NativeSelect.Field aria-label="Cut a clip from a take" value="" onChange={(e) => void cut(e.target.value)}>
            <option value="">Cut from a take…</option>
            {open.map((t) => (
              <option key={t.id} value={t.id}>
                {t.slate} {t.performer}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      }
    >
      {!reel.length && (
        <Text color="dim">No clip yet. Cut one from a take; it can be used in any number of shots.</Text>
      )}
      <Box maxH="260px" overflowY="auto">
        {reel.map((clip) => (
          <Flex key={clip.id} align="center" gap="2" py="1" data-testid="reel-clip">
            <Box flex="1" minW="0">
              <Text truncate>{clip.name}</Text>
              <Text fontSize="sm" color="dim" truncate>
                {(toNumber(clip.last) - toNumber(clip.first)).toFixed(2)} s,{" "}
                {clip.used.length ? `in ${clip.used.join(", ")}` : "not used yet"}
              </Text>
            </Box>
            <Plain size="2xs" title={`Put in at the playhead, on ${clip.performer}`} onClick={() => put(clip)}>
              Put in
            </Plain>
          </Flex>
        ))}
      </Box>
      {rolesOf(shot).length === 0 && (
        <Text fontSize="sm" color="dim">
          The first clip that is put in makes its performer a role.
        </Text>
      )}
    </Section>
  );
}
