// Steps that are kept by name and run over this take or all circled ones: tidy stacks of faces, or steps for bodies.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../api/client";
import { notify } from "../shared/notices";
import { Plain, Section, TextField } from "./parts";
import { reload, useOpen } from "../workspace/workspace";

const OF = {
  face: { list: api.stacks, save: api.saveStack, run: api.runStack, holds: "curves", bound: "frames of this take" },
  body: {
    list: api.bodyStacks,
    save: api.saveBodyStack,
    run: api.runBodyStack,
    holds: "body",
    bound: "a stretch of this take",
  },
};

export function SavedStacks({ of = "face" }: { of?: keyof typeof OF }) {
  const { list, save: keep, run: give, holds, bound } = OF[of];
  const { opened } = useOpen("opened");
  const { id, production } = opened!.take;
  const client = useQueryClient();
  const stacks = useQuery({ queryKey: ["stacks", of, production], queryFn: () => list(production) }).data ?? [];
  const [chosen, setChosen] = useState("");
  const trying = async (work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (error) {
      notify(error instanceof Problem ? error : new Problem(0, String(error)));
    }
  };
  const save = (name: string) =>
    trying(async () => {
      const made = await keep(id, name);
      // A first fetch that is still on its way would be taken for the new one, and has not seen what was just kept.
      await client.cancelQueries({ queryKey: ["stacks", of, production] });
      await client.invalidateQueries({ queryKey: ["stacks", of, production] });
      setChosen(made.id);
      notify({ kind: "success", message: `Saved the stack ${name}` });
    });
  const run = (circled: boolean) =>
    trying(async () => {
      const takes = circled
        ? (await api.takes(production))
            .filter((t) => t.circled && !t.archived && t.holds.includes(holds))
            .map((t) => t.id)
        : [id];
      if (!takes.length)
        return notify({ kind: "info", message: `No take with ${holds === "body" ? "a body" : "curves"} is circled` });
      const { done, failed } = await give(chosen, takes);
      notify({
        kind: failed.length ? "info" : "success",
        message: `${done.length} takes have the stack now`,
        detail: failed.map((f) => f.why).join(". "),
      });
      await Promise.all([reload(), client.invalidateQueries({ queryKey: ["takes"] })]);
    });
  return (
    <Section title="Saved stacks">
      {stacks.length > 0 ? (
        <Flex gap="1.5" mb="1.5">
          <NativeSelect.Root size="xs" flex="1">
            <NativeSelect.Field aria-label="Saved stack" value={chosen} onChange={(e) => setChosen(e.target.value)}>
              <option value="">Choose one…</option>
              {stacks.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name} ({s.steps} steps)
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <Plain disabled={!chosen} onClick={() => void run(false)}>
            this take
          </Plain>
          <Plain disabled={!chosen} onClick={() => void run(true)}>
            circled takes
          </Plain>
        </Flex>
      ) : (
        <Text fontSize="sm" color="dim" mb="1">
          None yet. A saved stack leaves out steps that are bound to {bound}.
        </Text>
      )}
      <TextField
        label="Save this as"
        value=""
        placeholder="Name, then Enter"
        onCommit={(name) => {
          if (name.trim()) void save(name.trim());
        }}
      />
    </Section>
  );
}
