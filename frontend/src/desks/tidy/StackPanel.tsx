// The tidy stack: ordered steps, each on or off, with what it does, how much and where.
import { Box, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useCatalogue } from "../../shared/catalogue";
import { AddStep } from "../../drawer/AddStep";
import { ParameterForm } from "../../drawer/ParameterForm";
import { valuesOf } from "../../drawer/steps";
import { Section } from "../../drawer/parts";
import { StepCard } from "../../drawer/StepCard";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { SavedStacks } from "../../drawer/SavedStacks";
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
          <AddStep
            label="Add a step"
            steps={steps.filter((s) => s.kind !== "retiming")}
            onAdd={(info) => {
              const { key, changes } = added(tidy, info);
              setOpen(key);
              void edit("take", `add ${info.label}`, changes);
            }}
          />
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
          <StepCard
            key={key}
            test={`step-${key}`}
            number={index + 1}
            label={info.label}
            help={info.help}
            words={where}
            on={step.on}
            open={open === key}
            onOpen={() => setOpen(open === key ? "" : key)}
            fixed={first ? "always first" : undefined}
            canUp={index > 1}
            canDown={index < order.length - 1}
            onMove={(by) => void edit("take", `move ${info.label}`, moved(tidy, key, by))}
            onRemove={() => void edit("take", `take ${info.label} out`, removed(key))}
            onSwitch={(on) => keep(`${info.label} ${on ? "on" : "off"}`, `tidy/steps/${key}/on`, on)}
          >
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
          </StepCard>
        );
      })}
      <SavedStacks />
    </Box>
  );
}
