// Which hands hold a prop when: a row each, and the fields of the one that is chosen.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { api, type Change } from "../../api/client";
import { ChoiceField } from "../../drawer/ChoiceField";
import { AmountField, Plain } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { nameOfRole, rolesOf, type ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { useLayerDesk } from "./layerState";
import { fallsShort, handOf, holdPath, holdsOf, SIDES, type Hand, type Prop } from "./propModel";
import { addHold, chooseHold } from "./useHolds";

type Props = { shot: ShotState; name: string; prop: Prop };

export function HoldsOfProp({ shot, name, prop }: Props) {
  const chosen = useLayerDesk((s) => (s.hold?.prop === name ? s.hold.key : ""));
  const short = shot.props?.short ?? {};
  const holds = holdsOf(prop);
  const find = () => void activeShot()?.changeShot(({ id, version }) => api.findHolds(id, name, version));
  return (
    <Box>
      {holds.map(([key, hold]) => {
        const why = fallsShort(short[key]);
        return (
          <Box key={key} borderLeftWidth="2px" borderColor={chosen === key ? "accent" : "line"} pl="2" mb="1">
            <Flex
              as="button"
              w="100%"
              justify="space-between"
              gap="2"
              textAlign="left"
              cursor="pointer"
              aria-pressed={chosen === key}
              data-testid="hold"
              onClick={() => {
                chooseHold({ prop: name, key: chosen === key ? "" : key });
                clock.seekFrame(hold.first);
              }}
            >
              <Text fontSize="sm" minW="0" truncate color={chosen === key ? "accent" : "ink"}>
                {handOf(shot, hold)}
              </Text>
              <Text fontSize="sm" color="dim" flexShrink={0}>
                {hold.first} to {hold.last}
              </Text>
            </Flex>
            {why && (
              <Text fontSize="xs" color="accent">
                {why}
              </Text>
            )}
            {chosen === key && <HoldFields shot={shot} name={name} prop={prop} holdKey={key} hold={hold} />}
          </Box>
        );
      })}
      <Flex gap="1.5" mt="1">
        <Plain size="2xs" title="From the playhead on" onClick={() => addHold(shot, name, clock.frame)}>
          Add a hold
        </Plain>
        <Plain
          size="2xs"
          title="Where hands are on it, as bodies and the prop go; in place of the holds that are there"
          onClick={find}
        >
          Find the hands
        </Plain>
      </Flex>
    </Box>
  );
}

const PLACE = ["Across", "Along", "Through"] as const;

function HoldFields({ shot, name, prop, holdKey, hold }: Props & { holdKey: string; hold: Hand }) {
  const { id } = shot.opened.shot;
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    place.current?.scrollIntoView({ block: "nearest" });
  }, [holdKey]);
  const put = (field: keyof Hand, value: unknown): Change[] => [{ path: holdPath(name, holdKey, field), value }];
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  const grip = (axis: number, cm: number) =>
    put(
      "at",
      hold.at.map((w, i) => (i === axis ? cm / 100 : w)),
    );
  const hands = Object.fromEntries(
    rolesOf(shot).flatMap((role) =>
      Object.entries(SIDES).map(([side, words]) => [`${role}:${side}`, `${nameOfRole(shot, role)}, ${words}`]),
    ),
  );
  return (
    <Box ref={place} pt="1" data-testid="chosen-hold">
      <ChoiceField
        word="Held by"
        label="Hand that holds"
        value={`${hold.role}:${hold.side}`}
        choices={hands}
        onChoose={(v) => {
          const [role, side] = v.split(":");
          edit("another hand holds it", [...put("role", role), ...put("side", side)]);
        }}
      />
      {(["first", "last"] as const).map((edge) => (
        <AmountField
          key={edge}
          label={edge === "first" ? "From frame" : "To frame"}
          value={hold[edge]}
          low={edge === "first" ? 0 : hold.first}
          high={edge === "first" ? hold.last : Math.max(clock.frames - 1, hold.last)}
          step={1}
          onDrag={(v) => void activeShot()?.preview({ shot: put(edge, v) })}
          onCommit={(v) => edit("edge of a hold", put(edge, Math.round(v)))}
        />
      ))}
      {PLACE.map((label, axis) => (
        <AmountField
          key={label}
          label={label}
          unit="cm"
          hint={`Where it lies in the palm, from the origin of ${prop.name}, in its own space`}
          value={Math.round(hold.at[axis]! * 1000) / 10}
          rest={0}
          low={-50}
          high={50}
          step={0.5}
          onDrag={(v) => void activeShot()?.preview({ shot: grip(axis, v) })}
          onCommit={(v) => edit("place in the palm", grip(axis, v))}
        />
      ))}
      <AmountField
        label="Fingers"
        unit="%"
        hint="How far they close about it: 0 as they were captured, 100 a fist"
        value={Math.round(hold.closed * 100)}
        rest={80}
        low={0}
        high={100}
        step={1}
        onDrag={(v) => void activeShot()?.preview({ shot: put("closed", v / 100) })}
        onCommit={(v) => edit("fingers about it", put("closed", v / 100))}
      />
      <Plain size="2xs" onClick={() => edit("no hold", [{ path: holdPath(name, holdKey), remove: true }])}>
        Take this hold away
      </Plain>
    </Box>
  );
}
