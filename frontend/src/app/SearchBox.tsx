import { Dialog, Flex, Input, Portal, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api } from "../api/client";
import { inWords, useCommands } from "../commands/commands";
import { select } from "../workspace/workspace";
import { useCatalogue } from "../shared/catalogue";

type Hit = { key: string; kind: string; label: string; go: () => void };

export function SearchBox({ production, onClose }: { production: string; onClose: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const { desk = "gather" } = useParams();
  const { channels } = useCatalogue();
  const commands = useCommands((s) => s.commands);
  const takes = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data;
  const hits = useMemo(() => {
    const all: Hit[] = [
      ...(takes ?? []).map((t) => ({
        key: t.id,
        kind: "take",
        label: `${t.slate}  ${t.performer}  ${t.notes}`,
        go: () => void navigate(`/${production}/${desk}/${t.id}`),
      })),
      ...commands
        .filter((c) => c.run && (c.when?.() ?? true))
        .map((c) => ({
          key: c.id,
          kind: "command",
          label: c.keys?.length ? `${c.name}  (${inWords(c.keys[0]!)})` : c.name,
          go: c.run!,
        })),
      ...channels.map((c) => ({ key: c, kind: "channel", label: c, go: () => select([c]) })),
    ];
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    return all.filter((h) => words.every((w) => h.label.toLowerCase().includes(w))).slice(0, 10);
  }, [takes, channels, text, navigate, production, desk, commands]);
  const choose = (hit?: Hit) => {
    onClose();
    hit?.go();
  };
  return (
    <Dialog.Root open onOpenChange={(e) => !e.open && onClose()} placement="top">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content
            aria-label="Search"
            bg="bg.raised"
            borderWidth="1px"
            borderColor="line"
            maxW="520px"
            overflow="hidden"
          >
            <Input
              autoFocus
              variant="flushed"
              px="4"
              aria-label="Search"
              placeholder="Search takes, desks, channels, commands"
              value={text}
              onChange={(e) => {
                setText(e.target.value);
                setAt(0);
              }}
              onKeyDown={(e) => {
                if (e.key === "Enter") choose(hits[at]);
                if (e.key === "ArrowDown") setAt(Math.min(at + 1, hits.length - 1));
                if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
              }}
            />
            {hits.map((hit, i) => (
              <Flex
                as="button"
                key={hit.kind + hit.key}
                w="100%"
                px="4"
                py="1.5"
                gap="3"
                cursor="pointer"
                bg={i === at ? "bg.pressed" : undefined}
                onMouseEnter={() => setAt(i)}
                onClick={() => choose(hit)}
              >
                <Text w="60px" color="dim" textAlign="left">
                  {hit.kind}
                </Text>
                <Text truncate>{hit.label}</Text>
              </Flex>
            ))}
            {!hits.length && (
              <Text px="4" py="3" color="dim">
                Nothing is named so.
              </Text>
            )}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
