// The Feed panel: who sends, what of it is read, the character that is moved, neutral and extremes, recording, sending on.
import { Box, Flex, IconButton, Text } from "@chakra-ui/react";
import { Columns2, X } from "lucide-react";
import { Fragment, memo, useDeferredValue, useEffect } from "react";
import { useShallow } from "zustand/react/shallow";
import { Section } from "../drawer/parts";
import { CommandsSection } from "./CommandsSection";
import { adviceOf, arrivalOf, bringsValues, broughtOf, calledOf, senderIn, sends } from "./feedModel";
import { closeFeed, openFeed, showBeside, showFeed, useFeed, watch } from "./feedWire";
import { OutSection } from "./OutSection";
import { PerformerSection } from "./PerformerSection";
import { RecordingSection } from "./RecordingSection";
import { SignalSection } from "./SignalSection";

export function FeedPanel({ production, onClose }: { production: string; onClose: () => void }) {
  const phase = useFeed((s) => s.phase);
  const hello = useFeed((s) => s.hello);
  const senders = useFeed(useShallow((s) => s.state?.senders.map(({ sender }) => sender) ?? []));
  const advice = useFeed((s) => adviceOf(s.hello, s.state));
  const heard = useFeed((s) => !!s.state);
  // The character comes before what can be set.
  const known = useDeferredValue(heard, false);
  useEffect(() => {
    showFeed(true);
    void openFeed(production);
    return () => {
      showFeed(false);
      const { state: last } = useFeed.getState();
      // What is recorded or sent on is worth a word in the top line; else nobody looks any more.
      if (!last?.recording && !last?.outs.length && !last?.keeping) closeFeed();
    };
  }, [production]);
  return (
    <Box data-testid="feed-panel" data-phase={phase}>
      <Section
        title="Feed"
        aside={
          <IconButton aria-label="Close the feed" size="2xs" variant="ghost" onClick={onClose}>
            <X size={14} />
          </IconButton>
        }
      >
        {phase === "opening" && <Text color="dim">Opening…</Text>}
        {phase === "lost" && (
          <Text role="alert">The process of feeds does not answer. It is tried again; what is recorded goes on.</Text>
        )}
        {hello && heard && !senders.length && <Addresses />}
        {senders.length > 0 && hello && !hello.trouble && (
          <Text fontSize="sm" color="dim" mb="1.5">
            Heard at {hello.addresses.map((a) => `${a.host}:${hello.port}`).join(", ")}
          </Text>
        )}
        {senders.map((number) => (
          <SenderRow key={number} number={number} alone={senders.length === 1} />
        ))}
        {advice && (
          <Text fontSize="sm" mt="1.5" color={hello?.trouble ? "accent" : "dim"} role="status">
            {advice}
          </Text>
        )}
      </Section>
      {heard && known && <Settings production={production} />}
    </Box>
  );
}

/** What can be set where the process of feeds has said how things stand. */
const Settings = memo(function Settings({ production }: { production: string }) {
  const some = useFeed((s) => !!s.state?.senders.length);
  const watched = useFeed((s) => senderIn(s.state, s.watched)?.sender);
  const valued = useFeed((s) => bringsValues(senderIn(s.state, s.watched)));
  return (
    <>
      {some && <RecordingSection production={production} />}
      {watched !== undefined && (
        <Fragment key={watched}>
          <PerformerSection number={watched} production={production} />
          {valued && <SignalSection number={watched} production={production} />}
        </Fragment>
      )}
      <OutSection production={production} />
      <CommandsSection production={production} />
    </>
  );
});

/** alone: there is no other, beside whose character that of this one could be shown. */
function SenderRow({ number, alone }: { number: number; alone: boolean }) {
  const sender = useFeed((s) => senderIn(s.state, number));
  const on = useFeed((s) => s.watched === number);
  const beside = useFeed((s) => s.beside.includes(number));
  if (!sender) return null;
  const lively = sends(sender);
  return (
    <Flex align="center" gap="1">
      <Flex
        as="button"
        flex="1"
        minW="0"
        align="center"
        gap="2"
        px="1.5"
        py="1"
        ml="-1.5"
        borderRadius="sm"
        textAlign="left"
        cursor="pointer"
        bg={on ? "bg.pressed" : undefined}
        aria-pressed={on}
        data-testid="sender"
        title={`${sender.how} from ${sender.host}, ${sender.packets} packets${sender.begun ? `, began anew ${sender.begun} times` : ""}`}
        onClick={() => watch(sender.sender)}
      >
        <Box w="8px" h="8px" borderRadius="full" flexShrink={0} bg={lively ? "wave" : "line"} />
        <Box flex="1" minW="0">
          <Text truncate>{calledOf(sender)}</Text>
          <Text fontSize="xs" color="dim" truncate>
            {sender.host} · {arrivalOf(sender)}
          </Text>
        </Box>
        <Text fontSize="xs" color="dim" whiteSpace="nowrap">
          {broughtOf(sender)}
        </Text>
      </Flex>
      {!alone && (
        <IconButton
          aria-label={`Show ${calledOf(sender)} beside`}
          title={on ? "Shown already" : "Show this character beside the other"}
          aria-pressed={on || beside}
          disabled={on}
          size="2xs"
          variant={on || beside ? "subtle" : "ghost"}
          onClick={() => showBeside(sender.sender, !beside)}
        >
          <Columns2 size={14} />
        </IconButton>
      )}
    </Flex>
  );
}

/** Where to send, to type into a phone or to take from it by its camera. */
function Addresses() {
  const hello = useFeed((s) => s.hello)!;
  if (hello.trouble) return null;
  return (
    <>
      <Text mb="1.5">Send Open Sound Control to</Text>
      {hello.addresses.map((a) => (
        <Flex key={a.host} gap="3" align="center" mb="2">
          <Box bg="white" p="1" borderRadius="sm" flexShrink={0}>
            <img src={a.code} width="76" height="76" alt={`Code of ${a.host}:${hello.port}`} />
          </Box>
          <Box>
            <Text fontFamily="number" fontSize="lg" userSelect="all">
              {a.host}
            </Text>
            <Text color="dim">
              port{" "}
              <Text as="span" fontFamily="number" color="ink" userSelect="all">
                {hello.port}
              </Text>
            </Text>
          </Box>
        </Flex>
      ))}
      <Text fontSize="sm" color="dim">
        Any layout is understood by its names. What can’t be guessed is said once, and kept for the sender.
      </Text>
    </>
  );
}
