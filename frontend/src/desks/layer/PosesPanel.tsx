// Poses of the production: laid on the face by a drag, and kept from what stands now.
import { Box, Flex, IconButton, Image, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Camera, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { useParams } from "react-router";
import { api, type Change } from "../../api/client";
import { Plain, Section, TextField, Toggle } from "../../drawer/parts";
import { clock } from "../../playback/clock";
import { useRange, useRestingFrame } from "../../playback/useClock";
import { useCatalogue } from "../../shared/catalogue";
import { notify } from "../../shared/notices";
import { pictureOf } from "../../viewer/stagePicture";
import { useOpen } from "../../workspace/workspace";
import { RegionLetters } from "./RegionLetters";
import { beginPose, type Pose } from "./poses";

const WHOLE = 110; // pixels of a drag that lay the whole pose

export function PosesPanel() {
  const { shot } = useOpen("shot");
  const { production = "" } = useParams();
  const client = useQueryClient();
  const poses = useQuery({ queryKey: ["poses", production], queryFn: () => api.poses(production) }).data ?? [];
  const [name, setName] = useState("");
  const [mirrored, setMirrored] = useState(false);
  const [regions, setRegions] = useState<string[]>([]);
  const [frame, range] = [useRestingFrame(), useRange()];
  const { regionOf } = useCatalogue();
  const done = (work: Promise<unknown>) =>
    work.then(
      () => client.invalidateQueries({ queryKey: ["poses"] }),
      (error: unknown) => notify(error as never),
    );
  if (!shot?.role) return null;
  const save = () => {
    const title = name.trim() || `pose ${poses.length + 1}`;
    setName("");
    const asked = { role: shot.role, frame: clock.frame, name: title, regions, picture: pictureOf(shot.role) };
    return done(api.newPose(shot.opened.shot.id, asked));
  };
  const change = (pose: Pose, label: string, changes: Change[]) =>
    void done(api.edit(pose.id, pose.version, label, changes));
  return (
    <>
      <Section title="Keep what stands now">
        <TextField label="Name" value={name} placeholder={`pose ${poses.length + 1}`} onCommit={setName} />
        <Plain size="2xs" mt="1" onClick={() => void save()}>
          Keep it as a pose
        </Plain>
      </Section>
      <Section
        title="Poses"
        aside={
          <Text fontSize="sm" color={range ? "accent" : "dim"}>
            {range ? `a span, ${range.from} to ${range.to}` : `keys at ${frame}`}
          </Text>
        }
      >
        <Flex align="center" gap="2" mb="1.5" wrap="wrap">
          <RegionLetters
            label="Pose on"
            on={(r) => regions.includes(r)}
            onToggle={(r) => setRegions(regions.includes(r) ? regions.filter((x) => x !== r) : [...regions, r])}
          />
          <Toggle label="mirrored" on={mirrored} onChange={setMirrored} />
        </Flex>
        <Text fontSize="sm" color="dim" mb="1.5">
          Drag a pose to the right to go as far as you want; a click goes all the way. It lands in the open layer.
        </Text>
        <Box display="grid" gridTemplateColumns="repeat(3, 1fr)" gap="1.5">
          {poses.map((pose) => (
            <PoseTile
              key={pose.id}
              pose={pose}
              begin={() => beginPose(pose, { mirrored, regions }, regionOf)}
              onPicture={() => change(pose, "picture of a pose", [{ path: "picture", value: pictureOf(shot.role) }])}
              onRemove={() => change(pose, "put a pose away", [{ path: "archived", value: true }])}
            />
          ))}
        </Box>
      </Section>
    </>
  );
}

type TileProps = { pose: Pose; begin: () => ReturnType<typeof beginPose>; onPicture: () => void; onRemove: () => void };

function PoseTile({ pose, begin, onPicture, onRemove }: TileProps) {
  const [share, setShare] = useState<number | null>(null);
  const gesture = useRef<{ x: number; laying: NonNullable<ReturnType<typeof beginPose>>; share: number } | null>(null);
  const press = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const laying = begin();
    if (!laying) return;
    clock.pause();
    e.currentTarget.setPointerCapture(e.pointerId);
    gesture.current = { x: e.clientX, laying, share: 1 };
    setShare(0);
  };
  const move = (e: React.PointerEvent) => {
    const now = gesture.current;
    if (!now || Math.abs(e.clientX - now.x) < 3) return;
    now.share = Math.min(Math.max((e.clientX - now.x) / WHOLE, 0), 1);
    setShare(now.share);
    now.laying.to(now.share);
  };
  const release = () => {
    const now = gesture.current;
    gesture.current = null;
    setShare(null);
    now?.laying.keep(now.share);
  };
  return (
    <Box
      position="relative"
      borderWidth="1px"
      borderColor={share === null ? "line" : "accent"}
      borderRadius="sm"
      overflow="hidden"
      bg="bg.raised"
      data-testid="pose"
      className="group"
    >
      <Box
        as="button"
        display="block"
        w="100%"
        cursor="ew-resize"
        touchAction="none"
        userSelect="none"
        aria-label={`Pose ${pose.body.name}`}
        onPointerDown={press}
        onPointerMove={move}
        onPointerUp={release}
        onPointerCancel={release}
        onKeyDown={(e: React.KeyboardEvent) => {
          if (e.key === "Enter") begin()?.keep(1);
        }}
      >
        {pose.body.picture ? (
          <Image src={pose.body.picture} alt="" w="100%" aspectRatio={1} draggable={false} />
        ) : (
          <Box h="34px" />
        )}
        <Text fontSize="xs" px="1" py="0.5" lineHeight="1.2" minH="28px">
          {pose.body.name}
        </Text>
      </Box>
      {share !== null && (
        <Text position="absolute" top="2px" left="4px" fontSize="xs" color="accent" pointerEvents="none">
          {Math.round(share * 100)} %
        </Text>
      )}
      <Flex
        position="absolute"
        top="0"
        right="0"
        opacity={0}
        _groupHover={{ opacity: 1 }}
        _focusWithin={{ opacity: 1 }}
      >
        <IconButton
          aria-label={`Picture of ${pose.body.name} as it stands now`}
          title="Take its picture of what stands now"
          size="2xs"
          variant="ghost"
          onClick={onPicture}
        >
          <Camera size={11} />
        </IconButton>
        <IconButton
          aria-label={`Put ${pose.body.name} away`}
          title="Put this pose away"
          size="2xs"
          variant="ghost"
          onClick={onRemove}
        >
          <Trash2 size={11} />
        </IconButton>
      </Flex>
    </Box>
  );
}
