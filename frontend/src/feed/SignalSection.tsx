// What a sender sends: each value with what it is read as, its meter, and for shapes the performer's extreme.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Plain, Section, Toggle } from "../drawer/parts";
import { useCatalogue } from "../shared/catalogue";
import { filtered, gainOf, readOf, shareOf, type SenderState, type Signal } from "./feedModel";
import { ask } from "./feedWire";
import { tellHistory } from "../workspace/workspace";
import { useFeedProfile } from "./useFeedProfile";

export function SignalSection({ sender, production }: { sender: SenderState; production: string }) {
  const catalogue = useCatalogue();
  const profile = useFeedProfile(production, sender.performer);
  const [open, setOpen] = useState(() => readOf(sender) === 0);
  const [text, setText] = useState("");
  const [unread, setUnread] = useState(false);
  const [choosing, setChoosing] = useState("");
  const who = { sender: sender.sender };
  const read = (columns: Record<string, string>) => void ask("recipe", { ...who, columns });
  /** A channel goes to one signal: the one that had it is read no more. */
  const choose = (name: string, channel: string) => {
    const before = sender.signals.find(([other, c]) => channel && c === channel && other !== name);
    setChoosing("");
    read({ ...(before ? { [before[0]]: "" } : {}), [name]: channel });
  };
  const extreme = async (shape: string, taken: boolean) => {
    if (taken)
      await ask("profile", {
        ...who,
        label: `take ${shape} back`,
        changes: [{ path: `extremes/${shape}`, remove: true }],
      });
    else await ask("extreme", { ...who, shape });
    tellHistory();
  };
  const rows = filtered(sender.signals, text, unread);
  const shapes = new Set(catalogue.shapes);
  return (
    <Section
      title="What arrives"
      aside={
        <Plain size="2xs" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Fold" : `${readOf(sender)} of ${sender.signals.length} are read`}
        </Plain>
      }
    >
      {open && (
        <>
          <Flex gap="3" mb="1.5" wrap="wrap">
            <Toggle
              label="0 to 100"
              on={sender.percent}
              onChange={(on) => void ask("recipe", { ...who, percent: on })}
            />
            <Toggle
              label="Radians"
              on={sender.radians}
              onChange={(on) => void ask("recipe", { ...who, radians: on })}
            />
            <Toggle label="Not read only" on={unread} onChange={setUnread} />
          </Flex>
          <Input
            size="xs"
            mb="1.5"
            aria-label="Find a value"
            placeholder="Find a value"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <Box maxH="420px" overflowY="auto" data-testid="signals">
            {rows.map((signal) => {
              const [name, channel] = signal;
              const taken = channel in (profile?.body.extremes ?? {});
              return (
                <Flex key={name} align="center" gap="1.5" h="26px">
                  <Text flex="1" minW="0" truncate fontSize="sm" title={`${name}: ${signal[2]}`}>
                    {name}
                  </Text>
                  {choosing === name ? (
                    <select
                      autoFocus
                      aria-label={`${name} is`}
                      value={channel}
                      style={{ width: 112, fontSize: 12, background: "transparent" }}
                      onBlur={() => setChoosing("")}
                      onChange={(e) => choose(name, e.target.value)}
                    >
                      <option value="">not read</option>
                      {catalogue.channels.map((c) => (
                        <option key={c}>{c}</option>
                      ))}
                    </select>
                  ) : (
                    <Text
                      as="button"
                      w="112px"
                      flexShrink={0}
                      textAlign="left"
                      truncate
                      fontSize="sm"
                      color={channel ? "ink" : "accent"}
                      title="What it is read as: click to choose"
                      onClick={() => setChoosing(name)}
                    >
                      {channel === name ? "as named" : channel || "not read"}
                    </Text>
                  )}
                  <Meter signal={signal} percent={sender.percent} />
                  {shapes.has(channel) && sender.performer ? (
                    <Plain
                      size="2xs"
                      w="46px"
                      px="0"
                      aria-pressed={taken}
                      title={
                        taken
                          ? `Full at ${profile!.body.extremes[channel]!.toFixed(2)}: press to take it back`
                          : "Show it at its most and press: that is full from then on"
                      }
                      onClick={() => void extreme(channel, taken)}
                    >
                      {taken
                        ? `×${gainOf(profile!.body.neutral[channel], profile!.body.extremes[channel]).toFixed(2)}`
                        : "Full"}
                    </Plain>
                  ) : (
                    <Box w="46px" flexShrink={0} />
                  )}
                </Flex>
              );
            })}
            {!rows.length && <Text color="dim">None of them.</Text>}
          </Box>
        </>
      )}
    </Section>
  );
}

function Meter({ signal, percent }: { signal: Signal; percent: boolean }) {
  return (
    <Box w="34px" h="6px" flexShrink={0} bg="bg.lane" borderRadius="2px" overflow="hidden">
      <Box h="100%" bg="wave" data-testid="meter" style={{ width: `${shareOf(signal, percent) * 100}%` }} />
    </Box>
  );
}
