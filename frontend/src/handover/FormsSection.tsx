// The forms in which work is handed over, each with its settings while it is on.
import { Box, Text } from "@chakra-ui/react";
import type { HandoverForm, HandoverSettings } from "../api/client";
import { ParameterForm } from "../drawer/ParameterForm";
import { Toggle } from "../drawer/parts";
import { withForm, withSettings } from "./handoverModel";

type Props = {
  forms: HandoverForm[];
  settings: HandoverSettings;
  /** Whether more than one character may be handed over at once. */
  several: boolean;
  onChange: (settings: HandoverSettings) => void;
};

export function FormsSection({ forms, settings, several, onChange }: Props) {
  return (
    <Box mb="1">
      {forms.map((form) => {
        const own = settings.forms[form.name];
        const parameters = form.parameters.filter((p) => several || p.name !== "characters");
        return (
          <Box key={form.name} py="0.5" data-testid="handover-form">
            <Toggle
              label={form.label}
              on={own !== undefined}
              hint={form.about}
              onChange={(on) => onChange(withForm(settings, form.name, on))}
            />
            {own !== undefined && parameters.length > 0 && (
              <Box ml="9" mt="1">
                <Text fontSize="sm" color="dim" mb="1">
                  {form.about}
                </Text>
                <ParameterForm
                  parameters={parameters}
                  values={own}
                  selected={[]}
                  onDrag={() => undefined}
                  onCommit={(_, values) => onChange(withSettings(settings, form.name, values as typeof own))}
                />
              </Box>
            )}
          </Box>
        );
      })}
    </Box>
  );
}
