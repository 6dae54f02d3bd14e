// Whom a sender captures, and what their values become: character, neutral, zero of the head, mirror, strength, smoothness.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { api } from "../api/client";
import { ChoiceField } from "../drawer/ChoiceField";
import { AmountField, Plain, Section, TextField, Toggle } from "../drawer/parts";
import { useLight } from "../shared/colourMode";
import { colourOf, REGIONS } from "../shared/regions";
import { calledOf, senderIn } from "./feedModel";
import { ask, useFeed } from "./feedWire";
import { tellHistory } from "../workspace/workspace";
import { useFeedHistory, useFeedProfile } from "./useFeedProfile";

const COUNT = 3;
const SMOOTHING = 0.2; // as core/feed/profile.py has it

/** number: of the sender. */
export function PerformerSection({ number, production }: { number: number; production: string }) {
  const { performer, called, count, left } = useFeed(
    useShallow(({ state }) => {
      const sender = senderIn(state, number);
      return {
        performer: sender?.performer ?? "",
        called: sender ? calledOf(sender) : "",
        count: state?.count?.what,
        left: Math.ceil(state?.count?.left ?? 0),
      };
    }),
  );
  const profile = useFeedProfile(production, performer);
  useFeedHistory(production, profile?.id);
  const characters = useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production) });
  const [finely, setFinely] = useState(false);
  const light = useLight();
  const who = { sender: number };
  const change = async (label: string, path: string, value: unknown) => {
    await ask("profile", { ...who, label, changes: [{ path, value }] });
    tellHistory();
  };
  const does = async (what: string, given: Record<string, unknown> = {}) => {
    await ask(what, { ...who, ...given });
    tellHistory();
  };
  const extremes = Object.keys(profile?.body.extremes ?? {}).length;
  const first = characters.data?.[0]?.id ?? "";
  return (
    <Section title={called}>
      <TextField
        label="Performer"
        value={performer}
        placeholder="who is captured"
        onCommit={(name) => void does("performer", { name })}
      />
      {!performer && (
        <Text fontSize="sm" color="dim">
          Name the performer: neutral and extremes are kept with them.
        </Text>
      )}
      {performer && (
        <>
          <ChoiceField
            word="Character"
            label="Character"
            value={profile?.body.character ?? first}
            choices={Object.fromEntries(characters.data?.map((c) => [c.id, c.name]) ?? [])}
            onChoose={(id) => void change("choose the live character", "character", id)}
          />
          <Flex gap="2" mt="1.5" align="center" wrap="wrap">
            <Plain disabled={!!count} onClick={() => void does("neutral", { count: COUNT })}>
              {count === "neutral" ? `Hold still: ${left}` : "Take neutral in 3"}
            </Plain>
            <Plain onClick={() => void does("zero")}>Zero the head</Plain>
            <Toggle
              label="Mirror"
              on={profile?.body.mirror ?? false}
              onChange={(on) => void change(on ? "mirror" : "do not mirror", "mirror", on)}
            />
          </Flex>
          <Flex mt="1.5" gap="3" fontSize="sm" color="dim" align="center">
            <Text>
              {Object.keys(profile?.body.neutral ?? {}).length ? "Neutral is taken." : "No neutral yet."}{" "}
              {extremes === 1 ? "One extreme." : `${extremes || "No"} extremes.`}
            </Text>
            {Object.keys(profile?.body.neutral ?? {}).length > 0 && (
              <Plain
                size="2xs"
                onClick={() =>
                  void ask("profile", {
                    ...who,
                    label: "take neutral back",
                    changes: [
                      { path: "neutral", value: {} },
                      { path: "zero", value: [0, 0, 0] },
                    ],
                  }).then(tellHistory)
                }
              >
                Take back
              </Plain>
            )}
          </Flex>
          <Plain size="2xs" mt="2" aria-expanded={finely} onClick={() => setFinely(!finely)}>
            Strength and smoothness by region
          </Plain>
          {finely && (
            <Box mt="1.5">
              {REGIONS.filter((r) => r.name !== "extra").map(({ name }) => (
                <Box key={name} py="0.5">
                  <AmountField
                    label={name}
                    mark={colourOf(name, light)}
                    value={profile?.body.strength[name] ?? 1}
                    low={0}
                    high={2}
                    step={0.05}
                    rest={1}
                    hint={`How strongly ${name} move`}
                    onDrag={() => undefined}
                    onCommit={(v) => void change(`strength of ${name}`, `strength/${name}`, v)}
                  />
                  <AmountField
                    label="smooth"
                    value={profile?.body.smoothing[name] ?? SMOOTHING}
                    low={0}
                    high={1}
                    step={0.05}
                    rest={SMOOTHING}
                    hint={`How smoothly ${name} move; 0 shows them as they come`}
                    onDrag={() => undefined}
                    onCommit={(v) => void change(`smoothness of ${name}`, `smoothing/${name}`, v)}
                  />
                </Box>
              ))}
            </Box>
          )}
        </>
      )}
    </Section>
  );
}
