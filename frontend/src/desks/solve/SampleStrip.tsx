// The neutral face and the samples of a card as small pictures: each can be looked at, moved, taken again or dropped.
import { Box, Flex, Grid, IconButton, Input, Text } from "@chakra-ui/react";
import { Crosshair, Video, X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { clock } from "../../playback/clock";
import { useSession } from "../../workspace/workspace";
import { Pictures, SIZE } from "./pictures";

/** A clip that was looked through. */
export type Clip = { footage: string; frames: number; rate: string; width: number; height: number };
/** `clip`: where the sample was taken again; without one it is in the clip that is open. */
export type Sample = { name: string; frame: number; fixed?: boolean; clip?: Clip };
type Props = {
  samples: Sample[];
  first: number;
  onMove: (name: string, frame: number) => void;
  onDrop: (name: string) => void;
  onAgain: (name: string) => void;
};

/** Small pictures of a clip's faces, once they can be had. */
function usePictures(clip: Clip | null): Pictures | null {
  const { footage = "", rate = "", width = 0, height = 0, frames = 0 } = clip ?? {};
  const pictures = useMemo(() => {
    if (!footage) return null;
    const [over, under = 1] = rate.split("/").map(Number);
    return new Pictures({ source: footage, frames, rate: over! / under, width, height });
  }, [footage, frames, rate, width, height]);
  useEffect(() => () => pictures?.end(), [pictures]);
  return pictures;
}

export function SampleStrip({ samples, first, onMove, onDrop, onAgain }: Props) {
  const footage = useSession((s) => s.opened?.sources.footage);
  const pictures = usePictures(
    footage?.info.proxy
      ? {
          footage: footage.id,
          rate: String(footage.info.rate),
          width: Number(footage.info.width),
          height: Number(footage.info.height),
          frames: Number(footage.info.frames),
        }
      : null,
  );
  return (
    <Grid templateColumns="repeat(3, 1fr)" gap="1.5" maxH="290px" overflowY="auto" my="2" data-testid="samples">
      {samples.map((s) => (
        <Tile
          key={s.name}
          sample={s}
          first={first}
          own={pictures}
          onMove={(frame) => onMove(s.name, frame)}
          onDrop={() => onDrop(s.name)}
          onAgain={() => onAgain(s.name)}
        />
      ))}
    </Grid>
  );
}

type TileProps = {
  sample: Sample;
  first: number;
  own: Pictures | null;
  onMove: (frame: number) => void;
  onDrop: () => void;
  onAgain: () => void;
};

function Tile({ sample, first, own, onMove, onDrop, onAgain }: TileProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { name, frame, fixed, clip } = sample;
  const again = usePictures(clip ?? null);
  const pictures = clip ? again : own;
  useEffect(() => pictures?.show(frame, canvas.current!), [pictures, frame]);
  return (
    <Box
      position="relative"
      minW="0"
      borderWidth="1px"
      borderColor={fixed ? "accent" : "line"}
      borderRadius="sm"
      bg="bg.lane"
    >
      <canvas
        ref={canvas}
        width={SIZE * 2}
        height={SIZE * 2}
        style={{ width: "100%", aspectRatio: "1", display: "block", cursor: "pointer", borderRadius: 3 }}
        aria-label={`Picture of ${name}`}
        title={clip ? "Taken again, in a clip of its own" : "Show this frame"}
        onClick={() => {
          if (!clip) clock.seekFrame(frame - first);
        }}
      />
      <Flex position="absolute" top="0" right="0" gap="0">
        {!fixed && (
          <IconButton
            aria-label={`Take ${name} again`}
            title="Take it again before the camera"
            size="2xs"
            variant="ghost"
            color={clip ? "accent" : "paper"}
            bg="blackAlpha.500"
            onClick={onAgain}
          >
            <Video size={12} />
          </IconButton>
        )}
        {!clip && (
          <IconButton
            aria-label={`Take ${name} from the playhead`}
            title="Take it from the playhead"
            size="2xs"
            variant="ghost"
            color="paper"
            bg="blackAlpha.500"
            onClick={() => onMove(clock.frame + first)}
          >
            <Crosshair size={12} />
          </IconButton>
        )}
        {!fixed && (
          <IconButton
            aria-label={`Drop ${name}`}
            title="Drop it: the general face stands in"
            size="2xs"
            variant="ghost"
            color="paper"
            bg="blackAlpha.500"
            onClick={onDrop}
          >
            <X size={12} />
          </IconButton>
        )}
      </Flex>
      <Text fontSize="2xs" px="1" truncate title={name}>
        {name}
      </Text>
      <Box px="0.5" pb="0.5">
        <Frame label={`Frame of ${name}`} value={frame} onCommit={onMove} />
      </Box>
    </Box>
  );
}

/** A frame number that is kept when it is left or Enter is pressed. */
export function Frame({ label, value, onCommit }: { label: string; value: number; onCommit: (v: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    const next = Math.round(Number(typed));
    setTyped(null);
    if (typed !== null && Number.isFinite(next) && next >= 0 && next !== value) onCommit(next);
  };
  return (
    <Input
      size="2xs"
      w="100%"
      minW="40px"
      textAlign="right"
      aria-label={label}
      value={typed ?? String(value)}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") keep();
      }}
    />
  );
}
