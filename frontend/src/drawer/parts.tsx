// Small pieces that all drawers are made of.
import { Box, Button, Flex, Input, Slider, Switch, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useSession } from "../workspace/workspace";

export function Section({
  title,
  aside,
  children,
}: {
  title: string;
  aside?: React.ReactNode;
  children: React.ReactNode;
}) {
  return (
    <Box px="3" py="2.5" borderBottomWidth="1px" borderColor="line">
      <Flex justify="space-between" align="center" mb="2" minH="20px">
        <Text fontWeight="600" fontSize="md">
          {title}
        </Text>
        {aside}
      </Flex>
      {children}
    </Box>
  );
}

export function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <Flex justify="space-between" gap="3" py="0.5">
      <Text color="dim" whiteSpace="nowrap">
        {name}
      </Text>
      <Box textAlign="right" minW="0" overflowWrap="anywhere">
        {children}
      </Box>
    </Flex>
  );
}

type Amount = {
  label: string;
  value: number;
  low: number;
  high: number;
  step: number;
  unit?: string;
  hint?: string;
  mark?: string;
  rest?: number;
  /** Room for a long label, such as the name of a channel. */
  wide?: boolean;
  onDrag: (value: number) => void;
  onCommit: (value: number) => void;
};

/** A number that can be dragged, typed and stepped. Dragging shows, letting go keeps. */
export function AmountField({
  label,
  value,
  low,
  high,
  step,
  unit = "",
  hint,
  mark,
  rest,
  wide,
  onDrag,
  onCommit,
}: Amount) {
  const [shown, setShown] = useState(value);
  const [typed, setTyped] = useState<string | null>(null);
  // Steps by key come faster than they can be stored: the last of a run is kept, as one change.
  const pending = useRef<{ timer: number; keep: () => void } | null>(null);
  const saving = useSession((s) => s.saving > 0);
  useEffect(() => {
    if (!pending.current && !saving) setShown(value);
  }, [value, saving]);
  useEffect(
    () => () => {
      if (!pending.current) return;
      window.clearTimeout(pending.current.timer);
      pending.current.keep();
    },
    [],
  );
  const commitSoon = (next: number) => {
    if (pending.current) window.clearTimeout(pending.current.timer);
    const keepNow = () => {
      pending.current = null;
      if (next !== value) onCommit(next);
    };
    pending.current = { timer: window.setTimeout(keepNow, 220), keep: keepNow };
  };
  const digits = Math.max(0, Math.min(4, Math.ceil(-Math.log10(step))));
  const keep = (text: string) => {
    const next = Number(text.replace(",", "."));
    setTyped(null);
    if (!Number.isFinite(next) || !text.trim()) return;
    const held = Math.min(Math.max(next, low), high);
    setShown(held);
    if (held !== value) onCommit(held);
  };
  return (
    <Flex align="center" gap="2" py="0.5" title={hint}>
      <Text
        w={wide ? "136px" : "86px"}
        flexShrink={0}
        fontSize="sm"
        truncate
        color={rest !== undefined && shown !== rest ? "ink" : "dim"}
      >
        {mark && (
          <Box
            as="span"
            display="inline-block"
            w="8px"
            h="8px"
            borderRadius="2px"
            mr="1.5"
            style={{ background: mark }}
          />
        )}
        {label}
      </Text>
      <Slider.Root
        flex="1"
        size="sm"
        min={low}
        max={high}
        step={step}
        value={[Math.min(Math.max(shown, low), high)]}
        aria-label={[label]}
        onValueChange={({ value: [v] }) => {
          setShown(v!);
          onDrag(v!);
        }}
        onValueChangeEnd={({ value: [v] }) => commitSoon(v!)}
        onDoubleClick={() => {
          if (rest !== undefined && rest !== value) onCommit(rest);
        }}
      >
        <Slider.Control>
          <Slider.Track bg="bg.pressed" h="3px">
            <Slider.Range bg="accent" />
          </Slider.Track>
          <Slider.Thumb index={0} boxSize="12px" bg="paper" borderColor="accent" borderWidth="1px" />
        </Slider.Control>
      </Slider.Root>
      <Input
        size="2xs"
        w="58px"
        textAlign="right"
        px="1"
        aria-label={`${label} value`}
        value={typed ?? shown.toFixed(digits)}
        onChange={(e) => setTyped(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={(e) => {
          if (typed !== null) keep(e.target.value);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur(); // leaving it keeps it
          if (e.key === "Escape") setTyped(null);
        }}
      />
      {!wide && (
        <Text w="38px" fontSize="xs" color="dim" whiteSpace="nowrap">
          {unit}
        </Text>
      )}
    </Flex>
  );
}

export function Toggle({
  label,
  on,
  onChange,
  hint,
}: {
  label: string;
  on: boolean;
  onChange: (on: boolean) => void;
  hint?: string;
}) {
  return (
    <Switch.Root size="sm" checked={on} onCheckedChange={(e) => onChange(e.checked)} title={hint}>
      <Switch.HiddenInput aria-label={label} />
      <Switch.Control bg={on ? "accent" : "bg.pressed"}>
        <Switch.Thumb />
      </Switch.Control>
      <Switch.Label fontSize="md" fontWeight="400">
        {label}
      </Switch.Label>
    </Switch.Root>
  );
}

/** Text that is kept when it is left or Enter is pressed. */
export function TextField({
  label,
  value,
  onCommit,
  placeholder,
}: {
  label: string;
  value: string;
  onCommit: (text: string) => void;
  placeholder?: string;
}) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        {label}
      </Text>
      <Input
        size="xs"
        flex="1"
        aria-label={label}
        placeholder={placeholder}
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          if (typed !== value) onCommit(typed);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setTyped(value);
        }}
      />
    </Flex>
  );
}

export function Primary(props: React.ComponentProps<typeof Button>) {
  return <Button size="xs" bg="accent" color="accentInk" fontWeight="600" _hover={{ opacity: 0.9 }} {...props} />;
}

export function Plain(props: React.ComponentProps<typeof Button>) {
  return (
    <Button
      size="xs"
      variant="outline"
      borderColor="line"
      color="ink"
      fontWeight="500"
      _hover={{ bg: "bg.pressed" }}
      {...props}
    />
  );
}
