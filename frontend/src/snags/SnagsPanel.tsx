// Snags by severity: each with what was measured, the proposed mend, and what the animator decides.
import { Box, Flex, IconButton, Input, Text } from "@chakra-ui/react";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Snag } from "../api/client";
import { isLight } from "../shared/colourMode";
import { BODY_GROUPS } from "../shared/bodyGroups";
import { colourOf, REGIONS } from "../shared/regions";
import { Fact, Plain, Primary, Section } from "../drawer/parts";
import {
  acceptMends,
  choose,
  dismiss,
  hasMend,
  lookedThrough,
  mendWords,
  previewMend,
  takeUpAgain,
  toNext,
  useSnags,
} from "./snags";
import { stopTrial, useTrial } from "../workspace/trial";

/** what: that is looked through; on: the curves that are; children: above the list. */
export function SnagsPanel({ what, on, children }: { what: string; on: string; children?: React.ReactNode }) {
  const { list, chosen } = useSnags();
  const [kind, setKind] = useState("");
  if (!list)
    return (
      <Section title="Snags">
        <Text color="dim">Looking {what} through…</Text>
      </Section>
    );
  const kinds = [...new Set(list.snags.map((s) => s.kind))];
  const shown = list.snags.filter((s) => !kind || s.kind === kind);
  const label = (name: string) => list.kinds.find((k) => k.name === name)?.label ?? name;
  return (
    <Box data-testid="snags">
      {children}
      <Section
        title={
          list.snags.length
            ? list.snags.length === 1
              ? "1 snag"
              : `${list.snags.length} snags, worst first`
            : "No snags"
        }
        aside={
          <Flex>
            <IconButton
              aria-label="Previous snag (Shift N)"
              title="Previous snag (Shift N)"
              size="2xs"
              variant="ghost"
              disabled={!list.snags.length}
              onClick={() => toNext(lookedThrough(), true)}
            >
              <ChevronLeft size={15} />
            </IconButton>
            <IconButton
              aria-label="Next snag (N)"
              title="Next snag (N)"
              size="2xs"
              variant="ghost"
              disabled={!list.snags.length}
              onClick={() => toNext(lookedThrough(), false)}
            >
              <ChevronRight size={15} />
            </IconButton>
          </Flex>
        }
      >
        {!list.snags.length && (
          <Text color="dim">
            {list.kinds.length} kinds of trouble were looked for on {on}.
          </Text>
        )}
        {list.silent && (
          <Text fontSize="sm" color="dim">
            Without sound nothing is said about speech.
          </Text>
        )}
        {kinds.length > 1 && (
          <Flex wrap="wrap" gap="1" mt="1">
            {kinds.map((k) => (
              <Box
                as="button"
                key={k}
                fontSize="xs"
                px="1.5"
                py="0.5"
                borderWidth="1px"
                borderRadius="sm"
                borderColor={kind === k ? "accent" : "line"}
                color={kind === k ? "ink" : "dim"}
                cursor="pointer"
                aria-pressed={kind === k}
                onClick={() => setKind(kind === k ? "" : k)}
              >
                {label(k)} {list.snags.filter((s) => s.kind === k).length}
              </Box>
            ))}
          </Flex>
        )}
      </Section>
      <Box role="listbox" aria-label="Snags">
        {shown.map((s) => (
          <Row
            key={s.key}
            snag={s}
            label={label(s.kind)}
            help={list.kinds.find((k) => k.name === s.kind)?.help ?? ""}
            looked={chosen === s.key}
            same={list.snags.filter((o) => o.kind === s.kind && hasMend(o))}
          />
        ))}
      </Box>
      {list.more > 0 && (
        <Text px="3" py="2" fontSize="sm" color="dim">
          and {list.more} more, less severe
        </Text>
      )}
      {list.dismissed.length > 0 && (
        <Section title={`${list.dismissed.length} let be`}>
          {list.dismissed.map((s) => (
            <Flex key={s.key} justify="space-between" gap="2" py="0.5">
              <Text fontSize="sm" color="dim" minW="0" truncate title={`${s.words} ${s.reason}`}>
                {label(s.kind)} at {s.first}: {s.reason}
              </Text>
              <Plain size="2xs" onClick={() => void takeUpAgain(lookedThrough(), s)}>
                look again
              </Plain>
            </Flex>
          ))}
        </Section>
      )}
    </Box>
  );
}

type RowProps = { snag: Snag; label: string; help: string; looked: boolean; same: Snag[] };

function Row({ snag, label, help, looked, same }: RowProps) {
  const element = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (looked) element.current?.scrollIntoView({ block: "nearest" });
  }, [looked]);
  const region = REGIONS.find((r) => r.name === snag.region);
  const group = BODY_GROUPS[snag.region];
  return (
    <Box
      ref={element}
      borderBottomWidth="1px"
      borderColor="line"
      bg={looked ? "bg.raised" : undefined}
      data-testid="snag"
      data-kind={snag.kind}
    >
      <Flex
        as="button"
        role="option"
        aria-selected={looked}
        w="100%"
        textAlign="left"
        px="3"
        py="1.5"
        gap="2"
        align="center"
        cursor="pointer"
        onClick={() => choose(lookedThrough(), looked ? null : snag)}
      >
        <Box
          w="18px"
          h="18px"
          flexShrink={0}
          borderRadius="2px"
          fontSize="xs"
          fontWeight="700"
          lineHeight="18px"
          textAlign="center"
          color={region ? "bg" : "ink"}
          style={{ background: region ? colourOf(snag.region, isLight()) : undefined }}
          bg={region ? undefined : "bg.pressed"}
          title={group?.label ?? snag.region}
        >
          {region?.letter ?? group?.letter ?? ""}
        </Box>
        <Box
          w="30px"
          h="4px"
          bg="bg.pressed"
          borderRadius="1px"
          flexShrink={0}
          title={`severity ${snag.severity.toFixed(2)}`}
        >
          <Box h="4px" bg="paper" borderRadius="1px" w={`${Math.max(8, snag.severity * 100)}%`} />
        </Box>
        <Text flex="1" minW="0" truncate fontWeight={looked ? "600" : "400"}>
          {label}
        </Text>
        <Text color="dim" fontSize="sm" whiteSpace="nowrap">
          {snag.first === snag.last ? snag.first : `${snag.first} to ${snag.last}`}
        </Text>
      </Flex>
      {looked && <Detail snag={snag} help={help} same={same} />}
    </Box>
  );
}

function Detail({ snag, help, same }: { snag: Snag; help: string; same: Snag[] }) {
  const trial = useTrial((s) => s.name);
  const [reason, setReason] = useState<string | null>(null);
  const mend = mendWords(snag);
  return (
    <Box px="3" pb="2.5">
      <Text mb="1">{snag.words}</Text>
      <Fact name="measured">
        {show(snag.measured)} {snag.unit}{" "}
        <Text as="span" color="dim">
          limit {show(snag.limit)}
        </Text>
      </Fact>
      <Fact name="on">
        {snag.channels.slice(0, 3).join(", ")}
        {snag.channels.length > 3 ? ` and ${snag.channels.length - 3} more` : ""}
      </Fact>
      <Fact name="mend">{mend || "by hand"}</Fact>
      <Text fontSize="sm" color="dim" mb="2">
        {help}
      </Text>
      {reason === null ? (
        <Flex gap="1.5" wrap="wrap">
          {hasMend(snag) && <Primary onClick={() => void acceptMends(lookedThrough(), [snag])}>Accept</Primary>}
          {snag.steps.length > 0 && (
            <Plain
              title="Plays this place before and after in a loop"
              aria-pressed={!!trial}
              onClick={() => (trial ? stopTrial() : previewMend(lookedThrough(), snag))}
            >
              {trial ? "Stop" : "Try it"}
            </Plain>
          )}
          {hasMend(snag) && same.length > 1 && (
            <Plain onClick={() => void acceptMends(lookedThrough(), same)}>Accept all {same.length}</Plain>
          )}
          <Plain onClick={() => setReason("")}>Let be…</Plain>
        </Flex>
      ) : (
        <Flex gap="1.5">
          <Input
            autoFocus
            size="xs"
            flex="1"
            aria-label="Reason"
            placeholder="Why it is right as it is"
            value={reason}
            maxLength={200}
            onChange={(e) => setReason(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") void dismiss(lookedThrough(), snag, reason || "meant");
              if (e.key === "Escape") setReason(null);
            }}
          />
          <Plain onClick={() => void dismiss(lookedThrough(), snag, reason || "meant")}>Let be</Plain>
        </Flex>
      )}
    </Box>
  );
}

const show = (value: number) =>
  Math.abs(value) >= 100 ? value.toFixed(0) : Math.abs(value) >= 1 ? value.toFixed(1) : value.toFixed(3);
