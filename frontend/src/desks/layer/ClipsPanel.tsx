// Clips: what is chosen in the deck, the shot, its roles, and the reel of the production.
import { Flex, Text } from "@chakra-ui/react";
import { type Change } from "../../api/client";
import { AmountField, Fact, Plain, Section, TextField } from "../../drawer/parts";
import { exact, framesOf, secondsOf, sum, toNumber } from "../../shared/seconds";
import { type ShotState } from "../../workspace/state";
import { activeShot, useOpen } from "../../workspace/workspace";
import { makeRoom } from "./layerCommands";
import { useLayerDesk } from "./layerState";
import { lengthOf } from "./shotModel";
import { Chosen, ChosenSound } from "./ChosenClip";
import { Reel } from "./Reel";
import { Roles } from "./Roles";

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
