// What a sender sends: each value with what it is read as, its meter, and for shapes the performer's extreme.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { Plain, Section, Toggle } from "../drawer/parts";
import { useCatalogue } from "../shared/catalogue";
import { filtered, gainOf, readOf, senderIn, shareOf, signalIn } from "./feedModel";
import { ask, useFeed } from "./feedWire";
import { tellHistory } from "../workspace/workspace";
import { useFeedProfile } from "./useFeedProfile";

/** number: of the sender. */
type Props = { number: number; production: string };

export function SignalSection({ number, production }: Props) {
  const all = useFeed((s) => senderIn(s.state, number)?.signals.length ?? 0);
  const read = useFeed((s) => readOf(senderIn(s.state, number)));
  const [open, setOpen] = useState(read === 0);
  return (
    <Section
      title="What arrives"
      aside={
        <Plain size="2xs" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Fold" : `${read} of ${all} are read`}
        </Plain>
      }
    >
      {open && <Signals number={number} production={production} />}
    </Section>
  );
}

function Signals({ number, production }: Props) {
  const [text, setText] = useState("");
  const [unread, setUnread] = useState(false);
  const [choosing, setChoosing] = useState("");
  const percent = useFeed((s) => !!senderIn(s.state, number)?.percent);
  const radians = useFeed((s) => !!senderIn(s.state, number)?.radians);
  const names = useFeed(
    useShallow((s) => filtered(senderIn(s.state, number)?.signals ?? [], text, unread).map(([name]) => name)),
  );
  const read = (given: Record<string, unknown>) => void ask("recipe", { sender: number, ...given });
  return (
    <>
      <Flex gap="3" mb="1.5" wrap="wrap">
        <Toggle label="0 to 100" on={percent} onChange={(on) => read({ percent: on })} />
        <Toggle label="Radians" on={radians} onChange={(on) => read({ radians: on })} />
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
        {names.map((name) => (
          <SignalRow
            key={name}
            number={number}
            production={production}
            name={name}
            choosing={choosing === name}
            onChoosing={setChoosing}
          />
        ))}
        {!names.length && <Text color="dim">None of them.</Text>}
      </Box>
    </>
  );
}

type RowProps = Props & { name: string; choosing: boolean; onChoosing: (name: string) => void };

/** choosing: what it is read as is chosen now, from a list. */
function SignalRow({ number, production, name, choosing, onChoosing }: RowProps) {
  const catalogue = useCatalogue();
  const channel = useFeed((s) => signalIn(senderIn(s.state, number), name)?.[1] ?? "");
  const performer = useFeed((s) => senderIn(s.state, number)?.performer ?? "");
  const profile = useFeedProfile(production, performer);
  const full = profile?.body.extremes[channel];
  const who = { sender: number };
  /** A channel goes to one signal: the one that had it is read no more. */
  const choose = (chosen: string) => {
    const signals = senderIn(useFeed.getState().state, number)?.signals ?? [];
    const before = signals.find(([other, c]) => chosen && c === chosen && other !== name);
    onChoosing("");
    void ask("recipe", { ...who, columns: { ...(before ? { [before[0]]: "" } : {}), [name]: chosen } });
  };
  const extreme = async () => {
    if (full === undefined) await ask("extreme", { ...who, shape: channel });
    else
      await ask("profile", {
        ...who,
        label: `take ${channel} back`,
        changes: [{ path: `extremes/${channel}`, remove: true }],
      });
    tellHistory();
  };
  return (
    <Flex align="center" gap="1.5" h="26px">
      <Text flex="1" minW="0" truncate fontSize="sm" title={name}>
        {name}
      </Text>
      {choosing ? (
        <select
          autoFocus
          aria-label={`${name} is`}
          value={channel}
          style={{ width: 112, fontSize: 12, background: "transparent" }}
          onBlur={() => onChoosing("")}
          onChange={(e) => choose(e.target.value)}
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
          onClick={() => onChoosing(name)}
        >
          {channel === name ? "as named" : channel || "not read"}
        </Text>
      )}
      <Meter number={number} name={name} />
      {performer && catalogue.shapes.includes(channel) ? (
        <Plain
          size="2xs"
          w="46px"
          px="0"
          aria-pressed={full !== undefined}
          title={
            full === undefined
              ? "Show it at its most and press: that is full from then on"
              : `Full at ${full.toFixed(2)}: press to take it back`
          }
          onClick={() => void extreme()}
        >
          {full === undefined ? "Full" : `×${gainOf(profile!.body.neutral[channel], full).toFixed(2)}`}
        </Plain>
      ) : (
        <Box w="46px" flexShrink={0} />
      )}
    </Flex>
  );
}

function Meter({ number, name }: { number: number; name: string }) {
  const signal = useFeed((s) => signalIn(senderIn(s.state, number), name));
  const percent = useFeed((s) => !!senderIn(s.state, number)?.percent);
  if (!signal) return null;
  return (
    <Box w="34px" h="6px" flexShrink={0} bg="bg.lane" borderRadius="2px" overflow="hidden" title={String(signal[2])}>
      <Box h="100%" bg="wave" data-testid="meter" style={{ width: `${shareOf(signal, percent) * 100}%` }} />
    </Box>
  );
}
