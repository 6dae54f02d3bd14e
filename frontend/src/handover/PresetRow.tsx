// Settings of handovers that are kept by name.
import { Box, Flex } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { pathOf } from "../api/changes";
import { api, type Change, type HandoverSettings, Problem } from "../api/client";
import { ChoiceField } from "../drawer/ChoiceField";
import { Plain, TextField } from "../drawer/parts";
import { notify } from "../shared/notices";
import { asPreset, ofPreset, presetOf } from "./handoverModel";

type Props = { production: string; settings: HandoverSettings; onChange: (settings: HandoverSettings) => void };

export function PresetRow({ production, settings, onChange }: Props) {
  const client = useQueryClient();
  const key = ["handover presets", production];
  const found = useQuery({ queryKey: key, queryFn: () => api.handoverPresets(production) }).data;
  const [naming, setNaming] = useState(false);
  const presets = found?.body.presets ?? {};
  const chosen = presetOf(settings, presets);
  const edit = async (label: string, change: Change) => {
    if (!found) return;
    try {
      await api.edit(found.id, found.version, label, [change]);
    } catch (error) {
      notify(error instanceof Problem ? error : new Problem(0, String(error)));
    }
    await client.invalidateQueries({ queryKey: key });
  };
  const save = (name: string) => {
    setNaming(false);
    if (name) void edit(`preset ${name}`.slice(0, 120), { path: pathOf("presets", name), value: asPreset(settings) });
  };
  return (
    <Box mb="1.5">
      <Flex gap="1.5" align="center">
        <Box flex="1" minW="0">
          <ChoiceField
            word="Preset"
            label="Preset of the handover"
            value={chosen}
            choices={{ "": "as set below", ...Object.fromEntries(Object.keys(presets).map((n) => [n, n])) }}
            onChoose={(name) => name && onChange(ofPreset(presets[name]!, settings.options))}
          />
        </Box>
        {chosen ? (
          <Plain
            size="2xs"
            onClick={() =>
              void edit(`forget ${chosen}`.slice(0, 120), { path: pathOf("presets", chosen), remove: true })
            }
          >
            forget
          </Plain>
        ) : (
          <Plain size="2xs" onClick={() => setNaming(!naming)}>
            keep as…
          </Plain>
        )}
      </Flex>
      {naming && <TextField label="Name of preset" value="" onCommit={save} placeholder="then Enter" />}
    </Box>
  );
}
