// A blink's profile: the courses of both lids over its length, whose points are dragged; every blink made with it follows.
import { Box, Text } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { pathOf } from "../../api/changes";
import { api } from "../../api/client";
import { Plain, TextField } from "../../drawer/parts";
import { notify } from "../../shared/notices";
import { isLight } from "../../shared/colourMode";
import { colourOf } from "../../shared/regions";
import type { ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { added, curve, moved, nearest, without, type Lid, type Points } from "./profileModel";

const [WIDE, HIGH, ROOM] = [268, 104, 8];
const LIDS: Lid[] = ["upper", "lower"];
const x = (at: number) => ROOM + at * (WIDE - 2 * ROOM);
const y = (value: number) => ROOM + value * (HIGH - 2 * ROOM); // down is shut
type Profile = Record<Lid, Points>;

/** The production's own profiles, made where it has none yet. */
async function own(shot: ShotState) {
  const there = shot.opened.profiles;
  if (there) return there;
  const made = await api.ownProfiles(shot.opened.shot.production);
  await activeShot()?.reload();
  return made;
}

async function keep(shot: ShotState, label: string, name: string, value: unknown, lid?: Lid) {
  try {
    const document = await own(shot);
    const path = lid ? pathOf("profiles", name, lid) : pathOf("profiles", name);
    await activeShot()?.edit(document.id, label, [{ path, value }]);
  } catch (error) {
    notify(error as never);
  }
}

export function ProfileEditor({
  shot,
  name,
  onName,
}: {
  shot: ShotState;
  name: string;
  onName: (name: string) => void;
}) {
  const stored = shot.opened.profiles?.body.profiles[name] as Profile | undefined;
  if (!stored)
    return (
      <Plain
        title="Makes this production's own copies of the profiles, to be edited"
        onClick={() => void own(shot).catch((error: unknown) => notify(error as never))}
      >
        Edit the profile
      </Plain>
    );
  return <Curves key={`${name} ${JSON.stringify(stored)}`} shot={shot} name={name} stored={stored} onName={onName} />;
}

type Props = { shot: ShotState; name: string; stored: Profile; onName: (name: string) => void };

function Curves({ shot, name, stored, onName }: Props) {
  const [points, setPoints] = useState(stored);
  const held = useRef<{ lid: Lid; at: number } | null>(null);
  const picture = useRef<SVGSVGElement>(null);
  const placeOf = (e: { clientX: number; clientY: number }): [number, number] => {
    const box = picture.current!.getBoundingClientRect();
    const [px, py] = [((e.clientX - box.left) / box.width) * WIDE, ((e.clientY - box.top) / box.height) * HIGH];
    return [(px - ROOM) / (WIDE - 2 * ROOM), (py - ROOM) / (HIGH - 2 * ROOM)];
  };
  const finish = (label: string, lid: Lid, next: Points) => {
    setPoints((p) => ({ ...p, [lid]: next }));
    if (next !== stored[lid]) void keep(shot, `${label} of ${name}`, name, next, lid);
  };
  const copy = (title: string) => {
    const fresh = title.trim();
    if (!fresh || shot.opened.profiles?.body.profiles[fresh]) return;
    void keep(shot, `profile ${fresh}`.slice(0, 120), fresh, points).then(() => onName(fresh));
  };
  const colour = colourOf("lids", isLight());
  return (
    <Box mb="2" data-testid="profile">
      <svg
        ref={picture}
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        width="100%"
        role="img"
        aria-label={`Profile ${name}`}
        style={{ background: "var(--chakra-colors-bg-deck)", borderRadius: 3, touchAction: "none", display: "block" }}
        onPointerMove={(e) => {
          const now = held.current;
          if (now) setPoints((p) => ({ ...p, [now.lid]: moved(p[now.lid], now.at, placeOf(e)) }));
        }}
        onPointerUp={() => {
          const now = held.current;
          held.current = null;
          if (now) finish(`the ${now.lid} lid`, now.lid, points[now.lid]);
        }}
        onDoubleClick={(e) => {
          const lid: Lid = e.shiftKey ? "lower" : "upper";
          finish(`a point more on the ${lid} lid`, lid, added(points[lid], placeOf(e)));
        }}
      >
        {[0, 0.5, 1].map((v) => (
          <line key={v} x1={x(0)} x2={x(1)} y1={y(v)} y2={y(v)} stroke="currentColor" strokeOpacity={0.15} />
        ))}
        {LIDS.map((lid) => (
          <polyline
            key={lid}
            points={curve(points[lid])
              .map(([a, v]) => `${x(a)},${y(v)}`)
              .join(" ")}
            fill="none"
            stroke={colour}
            strokeWidth={1.6}
            strokeDasharray={lid === "lower" ? "5 4" : undefined}
          />
        ))}
        {[...LIDS].reverse().flatMap((lid) =>
          points[lid].slice(1, -1).map(([a, v], i) => (
            <circle
              key={`${lid} ${i}`}
              cx={x(a)}
              cy={y(v)}
              r={4.5}
              fill="var(--chakra-colors-bg)"
              stroke={colour}
              strokeWidth={1.6}
              cursor="grab"
              data-lid={lid}
              onPointerDown={(e) => {
                // Where both curves run together, Shift takes the lower one.
                const own = e.shiftKey ? "lower" : lid;
                const at = e.shiftKey ? nearest(points.lower, placeOf(e)) : i + 1;
                if (e.altKey) return finish(`a point less on the ${own} lid`, own, without(points[own], at));
                held.current = { lid: own, at };
                picture.current!.setPointerCapture(e.pointerId);
              }}
              onDoubleClick={(e) => e.stopPropagation()}
            />
          )),
        )}
      </svg>
      <Text fontSize="xs" color="dim" mt="1">
        Upper lid solid, lower dashed; down is shut. Double click adds a point, Alt press removes one, Shift for the
        lower lid.
      </Text>
      <TextField label="Copy it as" value="" placeholder="a name of your own" onCommit={copy} />
    </Box>
  );
}
