// Stacks that are kept by name and run over this take or all circled ones.
import { Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../../api/client";
import { notify } from "../../shared/notices";
import { Plain, Section, TextField } from "../../drawer/parts";
import { reload, useOpen } from "../../workspace/workspace";

export function SavedStacks() {
  const { opened } = useOpen("opened");
  const { id, production } = opened!.take;
  const client = useQueryClient();
  const stacks = useQuery({ queryKey: ["stacks", production], queryFn: () => api.stacks(production) }).data ?? [];
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
      const made = await api.saveStack(id, name);
      await client.invalidateQueries({ queryKey: ["stacks", production] });
      setChosen(made.id);
      notify({ kind: "success", message: `Saved the stack ${name}` });
    });
  const run = (circled: boolean) =>
    trying(async () => {
      const takes = circled
        ? (await api.takes(production))
            .filter((t) => t.circled && !t.archived && t.holds.includes("curves"))
            .map((t) => t.id)
        : [id];
      if (!takes.length) return notify({ kind: "info", message: "No take with curves is circled" });
      const { done, failed } = await api.runStack(chosen, takes);
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
          None yet. A saved stack leaves out steps that are bound to frames of this take.
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
