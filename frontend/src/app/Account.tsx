// Somebody's account: where they are signed in, and their password.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { Plain, Primary } from "../drawer/parts";
import { DialogFrame } from "../shared/DialogFrame";
import { notify } from "../shared/notices";

const MIN_PASSWORD = 12;

/** What a browser calls itself, as short as it still says something. Pure. */
export function shortAgent(agent: string): string {
  const known = /(Firefox|Edg|OPR|Chrome|Safari)\/(\d+)/.exec(agent);
  const system = /Windows|Mac OS X|Linux|Android|iPhone|iPad/.exec(agent);
  return (
    [known?.[1]?.replace("Edg", "Edge").replace("OPR", "Opera"), system?.[0]].filter(Boolean).join(", ") ||
    agent.slice(0, 40) ||
    "unknown"
  );
}

export function Account({ name, onClose }: { name: string; onClose: () => void }) {
  return (
    <DialogFrame title={name} size="md" onClose={onClose}>
      <Sessions />
      <Password />
    </DialogFrame>
  );
}

function Sessions() {
  const client = useQueryClient();
  const sessions = useQuery({ queryKey: ["sessions"], queryFn: api.sessions }).data ?? [];
  const end = (id: string) =>
    void api.endSession(id).then(() => client.invalidateQueries({ queryKey: ["sessions"] }), notify);
  return (
    <Box mb="4">
      <Text fontWeight="600" mb="1">
        Signed in
      </Text>
      {sessions.map((s) => (
        <Flex key={s.id} align="center" gap="3" py="1" fontSize="sm" data-testid="account-session">
          <Text flex="1" minW="0" truncate title={s.agent}>
            {shortAgent(s.agent)}
          </Text>
          <Text color="dim">{s.address}</Text>
          <Text color="dim">{new Date(s.seen).toLocaleString([], { dateStyle: "short", timeStyle: "short" })}</Text>
          <Box w="64px" textAlign="right">
            {s.here ? <Text color="dim">here</Text> : <Plain onClick={() => end(s.id)}>Sign out</Plain>}
          </Box>
        </Flex>
      ))}
    </Box>
  );
}

function Password() {
  const client = useQueryClient();
  const [given, setGiven] = useState({ old: "", fresh: "", again: "" });
  const wrong =
    given.fresh.length < MIN_PASSWORD
      ? `At least ${MIN_PASSWORD} letters: a few words that do not go together`
      : given.fresh !== given.again
        ? "Both must be the same"
        : "";
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (wrong) return;
    void api.changePassword(given.old, given.fresh).then(() => {
      setGiven({ old: "", fresh: "", again: "" });
      notify({ kind: "info", message: "The password was changed; other sessions have ended" });
      void client.invalidateQueries({ queryKey: ["sessions"] });
    }, notify);
  };
  const field = (key: keyof typeof given, label: string, complete: string) => (
    <Input
      size="sm"
      type="password"
      aria-label={label}
      placeholder={label}
      autoComplete={complete}
      value={given[key]}
      onChange={(e) => setGiven({ ...given, [key]: e.target.value })}
    />
  );
  return (
    <form onSubmit={submit}>
      <Text fontWeight="600" mb="1">
        Change the password
      </Text>
      <Flex direction="column" gap="2">
        {field("old", "Old password", "current-password")}
        {field("fresh", "New password", "new-password")}
        {field("again", "New password again", "new-password")}
        <Flex align="center" gap="3">
          <Primary type="submit" disabled={!given.old || !!wrong}>
            Change
          </Primary>
          <Text fontSize="sm" color="dim">
            {given.fresh ? wrong : ""}
          </Text>
        </Flex>
      </Flex>
    </form>
  );
}
