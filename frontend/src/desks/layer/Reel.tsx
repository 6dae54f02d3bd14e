// The reel: all clips of the production, and what is cut from a take.
import { Box, Flex, Image, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { freshId, pathOf } from "../../api/changes";
import { api, type Change, type ClipRow } from "../../api/client";
import { Plain, Section } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { secondsOf, toNumber } from "../../shared/seconds";
import { rolesOf, type ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { useClipFaces } from "./clipFaces";
import { placementPath } from "./shotModel";

/** All clips ever cut in the production; one goes in at the playhead on its performer's role. */
export function Reel({ shot }: { shot: ShotState }) {
  const { production = "" } = useParams();
  const client = useQueryClient();
  const version = shot.opened.shot.version;
  const reel = useQuery({ queryKey: ["reel", production, version], queryFn: () => api.reel(production) }).data ?? [];
  const takes = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? [];
  const put = (clip: ClipRow) => {
    const { body, id } = shot.opened.shot;
    const role = rolesOf(shot).find((k) => body.roles[k]!.performer === clip.performer);
    const placement = {
      clip: clip.id,
      shows: clip.body ? "both" : "face",
      start: secondsOf(clock.frame, body.rate),
      first: clip.first,
      last: clip.last,
    };
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
  const faces = useClipFaces(shot);
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
      <Box maxH="320px" overflowY="auto">
        {reel.map((clip) => (
          <Flex key={clip.id} align="center" gap="2" py="1" data-testid="reel-clip">
            <Face picture={faces.get(clip.id)} />
            <Box flex="1" minW="0">
              <Text truncate>{clip.name}</Text>
              <Text fontSize="sm" color="dim" truncate>
                {(toNumber(clip.last) - toNumber(clip.first)).toFixed(2)} s{clip.body ? " with body" : ""},{" "}
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

/** What a clip looks like; one that was on no stage yet has an empty place. */
const Face = ({ picture }: { picture: string | undefined }) => (
  <Box w="40px" h="40px" flexShrink={0} borderRadius="sm" bg="bg.raised" overflow="hidden" data-testid="clip-face">
    {picture && <Image src={picture} alt="" w="40px" h="40px" draggable={false} />}
  </Box>
);
