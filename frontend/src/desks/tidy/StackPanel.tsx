// The tidy stack: ordered steps, each on or off, with what it does, how much and where.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { ArrowDown, ArrowUp, Trash2 } from "lucide-react";
import { useState } from "react";
import { useCatalogue } from "../../shared/catalogue";
import { ParameterForm } from "../../drawer/ParameterForm";
import { valuesOf } from "../../drawer/steps";
import { Section, Toggle } from "../../drawer/parts";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { SavedStacks } from "./SavedStacks";
import { added, moved, orderOf, removed, valueChanges, whereOf } from "./stack";
import { Where } from "./Where";

export function StackPanel() {
  const { opened, selected } = useOpen("opened", "selected");
  const { steps } = useCatalogue();
  const { tidy } = opened!.take.body;
  const order = orderOf(tidy);
  const [open, setOpen] = useState("smooth");
  const keep = (label: string, path: string, value: unknown) => void edit("take", label, [{ path, value }]);
  return (
    <Box data-testid="tidy-stack">
      <Section
        title="Tidy stack"
        aside={
          <NativeSelect.Root size="xs" w="124px">
            <NativeSelect.Field
              aria-label="Add a step"
              value=""
              onChange={(e) => {
                const info = steps.find((s) => s.name === e.target.value);
                if (!info) return;
                const { key, changes } = added(tidy, info);
                setOpen(key);
                void edit("take", `add ${info.label}`, changes);
              }}
            >
              <option value="">Add a step…</option>
              {steps
                .filter((s) => s.kind !== "retiming")
                .map((s) => (
                  <option key={s.name} value={s.name}>
                    {s.label}
                  </option>
                ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        }
      >
        <Text fontSize="sm" color="dim">
          Steps run from the top. The device's curves stay as they are underneath.
        </Text>
      </Section>
      {order.map((key, index) => {
        const step = tidy.steps[key]!;
        const info = steps.find((s) => s.name === step.step);
        if (!info) return null;
        const first = info.kind === "retiming";
        const values = valuesOf(step, info.parameters);
        const where = whereOf(step);
        return (
          <Box
            key={key}
            borderBottomWidth="1px"
            borderColor="line"
            px="3"
            py="2"
            bg={open === key ? "bg.raised" : undefined}
            data-testid={`step-${key}`}
          >
            <Flex align="center" gap="1.5">
              <Box
                as="button"
                flex="1"
                minW="0"
                textAlign="left"
                cursor="pointer"
                color={step.on ? "ink" : "dim"}
                aria-expanded={open === key}
                onClick={() => setOpen(open === key ? "" : key)}
              >
                <Text fontWeight="600" truncate>
                  <Text as="span" color="dim" mr="2" fontWeight="400">
                    {index + 1}
                  </Text>
                  {info.label}
                </Text>
                {where && (
                  <Text fontSize="xs" color="dim" truncate pl="4">
                    {where}
                  </Text>
                )}
              </Box>
              {!first && (
                <>
                  <IconButton
                    aria-label={`Move ${info.label} up`}
                    size="2xs"
                    variant="ghost"
                    disabled={index <= 1}
                    onClick={() => void edit("take", `move ${info.label}`, moved(tidy, key, -1))}
                  >
                    <ArrowUp size={13} />
                  </IconButton>
                  <IconButton
                    aria-label={`Move ${info.label} down`}
                    size="2xs"
                    variant="ghost"
                    disabled={index === order.length - 1}
                    onClick={() => void edit("take", `move ${info.label}`, moved(tidy, key, 1))}
                  >
                    <ArrowDown size={13} />
                  </IconButton>
                  <IconButton
                    aria-label={`Take ${info.label} out`}
                    size="2xs"
                    variant="ghost"
                    onClick={() => void edit("take", `take ${info.label} out`, removed(key))}
                  >
                    <Trash2 size={13} />
                  </IconButton>
                  <Toggle
                    label={step.on ? "on" : "off"}
                    on={step.on}
                    onChange={(on) => keep(`${info.label} ${on ? "on" : "off"}`, `tidy/steps/${key}/on`, on)}
                  />
                </>
              )}
              {first && (
                <Text fontSize="sm" color="dim">
                  always first
                </Text>
              )}
            </Flex>
            {open === key && (
              <Box mt="2">
                <Text fontSize="sm" color="dim" mb="2">
                  {info.help}
                </Text>
                <ParameterForm
                  parameters={info.parameters}
                  values={values}
                  selected={selected}
                  onDrag={(v) => void preview({ take: valueChanges(key, v) })}
                  onCommit={(label, v) => void edit("take", `${info.label}: ${label}`, valueChanges(key, v))}
                />
                {!first && (
                  <Where
                    step={step}
                    needsPlace={info.needsPlace}
                    onChange={(name, value) => keep(`${info.label}: where`, `tidy/steps/${key}/${name}`, value)}
                    onDrag={(name, value) => void preview({ take: valueChanges(key, { [name]: value }) })}
                  />
                )}
              </Box>
            )}
          </Box>
        );
      })}
      <SavedStacks />
    </Box>
  );
}
