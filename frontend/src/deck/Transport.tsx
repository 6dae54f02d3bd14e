// The bar over the deck: playing, time, and what is shown how.
import { Box, HStack, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Diff, Maximize2, Pause, Play, Repeat, SkipBack, SkipForward, Volume2, VolumeX } from "lucide-react";
import { clock } from "../playback/clock";
import { useClock } from "../playback/useClock";
import { frameLabel, type TimecodeStart, type Unit } from "../timekit/timeAxis";
import { setComparing, useOpen } from "../workspace/workspace";

type Props = {
  unit: Unit;
  onUnit: (unit: Unit) => void;
  start: TimecodeStart;
  frames: number;
  onFit: () => void;
  children?: React.ReactNode;
};

export function Transport({ unit, onUnit, start, frames, onFit, children }: Props) {
  const state = useClock();
  const { curves, comparing, against } = useOpen("curves", "comparing", "against");
  return (
    <HStack h="36px" px="3" gap="1" borderBottomWidth="1px" borderColor="line" flexShrink={0}>
      <Tool label="To the start" onClick={() => clock.seekFrame(clock.span.from)}>
        <SkipBack size={15} />
      </Tool>
      <Tool label={state.playing ? "Pause (Space)" : "Play (Space)"} onClick={() => clock.toggle()} accent>
        {state.playing ? <Pause size={16} /> : <Play size={16} />}
      </Tool>
      <Tool label="To the end" onClick={() => clock.seekFrame(clock.span.to)}>
        <SkipForward size={15} />
      </Tool>
      <Tool label="Loop" pressed={state.looping} onClick={() => clock.setLooping(!clock.looping)}>
        <Repeat size={15} />
      </Tool>
      <Tool
        label="Sound while scrubbing"
        pressed={state.scrubSound}
        onClick={() => clock.setScrubSound(!clock.scrubSound)}
      >
        {state.scrubSound ? <Volume2 size={15} /> : <VolumeX size={15} />}
      </Tool>
      <NativeSelect.Root size="xs" w="74px" flexShrink={0}>
        <NativeSelect.Field
          aria-label="Playback rate"
          value={state.rate}
          onChange={(e) => clock.setRate(Number(e.target.value))}
        >
          {[0.25, 0.5, 1, 1.5, 2].map((r) => (
            <option key={r} value={r}>
              {r}×
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Text fontFamily="number" fontSize="lg" color="accent" minW="112px" textAlign="right" data-testid="time-readout">
        {frameLabel(state.frame, clock.fps, unit, start)}
      </Text>
      <NativeSelect.Root size="xs" w="108px" flexShrink={0}>
        <NativeSelect.Field aria-label="Time shown as" value={unit} onChange={(e) => onUnit(e.target.value as Unit)}>
          <option value="frames">frames</option>
          <option value="seconds">seconds</option>
          <option value="timecode">timecode</option>
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Text color="dim" fontSize="sm" whiteSpace="nowrap">
        of {frames}
        {curves ? ` at ${Number(curves.rate.toFixed(3))} fps` : ""}
      </Text>
      <Box flex="1" />
      {children}
      <Tool
        label={`Shade the difference ${against ? `to ${against.name}` : "between raw and tidied"} (D)`}
        pressed={comparing}
        onClick={() => setComparing(!comparing)}
      >
        <Diff size={15} />
      </Tool>
      <Tool label="Fit (F)" onClick={onFit}>
        <Maximize2 size={15} />
      </Tool>
    </HStack>
  );
}

type ToolProps = { label: string; pressed?: boolean; accent?: boolean; onClick: () => void; children: React.ReactNode };

function Tool({ label, pressed, accent, onClick, children }: ToolProps) {
  return (
    <IconButton
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      size="xs"
      variant="ghost"
      color={accent || pressed ? "accent" : "ink"}
      bg={pressed ? "bg.pressed" : undefined}
      onClick={onClick}
    >
      {children}
    </IconButton>
  );
}
