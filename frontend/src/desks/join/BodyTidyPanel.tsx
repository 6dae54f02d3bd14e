// Steps that tidy the body take before it is carried onto the character.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { pathOf } from "../../api/changes";
import type { BodyStepInfo } from "../../api/client";
import { AddStep } from "../../drawer/AddStep";
import { ParameterForm } from "../../drawer/ParameterForm";
import { Plain, Section } from "../../drawer/parts";
import { SavedStacks } from "../../drawer/SavedStacks";
import { StepCard } from "../../drawer/StepCard";
import { orderOfSteps, valuesOf } from "../../drawer/steps";
import { clock } from "../../playback/clock";
import { BODY_GROUPS } from "../../shared/bodyGroups";
import { useCatalogue } from "../../shared/catalogue";
import { JointLooks } from "./JointLooks";
import { useJoinReport } from "../../workspace/useJoinReport";
import { edit, preview, useOpen, useSession } from "../../workspace/workspace";
import {
  addedStep,
  groupsWith,
  movedStep,
  placeOf,
  stepValues,
  stepWords,
  type BodyClock,
  type BodyStep,
} from "./bodyTidy";

export function BodyTidyPanel() {
  const { opened } = useOpen("opened");
  const { bodySteps } = useCatalogue();
  const rate = useSession((s) => s.curves?.rate ?? 60);
  const report = useJoinReport();
  const steps = opened!.join.body.tidy;
  const order = orderOfSteps(steps);
  const [open, setOpen] = useState("");
  const at: BodyClock = { begins: report?.begins ?? 0, rate };
  return (
    <Box data-testid="body-tidy">
      <Section
        title="Steps for the body"
        aside={
          <AddStep
            label="Add a step for the body"
            steps={bodySteps}
            onAdd={(info) => {
              const { key, changes } = addedStep(steps, info);
              setOpen(key);
              void edit("join", `add ${info.label} to the body`, changes);
            }}
          />
        }
      >
        <Text fontSize="sm" color="dim">
          {order.length
            ? "They run from the top, on the body take, before it is matched to the character."
            : "None yet: the body is carried over as it was recorded. Mends of snags land here, too."}
        </Text>
      </Section>
      {order.map((key, index) => {
        const info = bodySteps.find((s) => s.name === steps[key]!.step);
        return info ? (
          <Row
            key={key}
            name={key}
            number={index + 1}
            last={index === order.length - 1}
            step={steps[key]!}
            info={info}
            at={at}
            open={open === key}
            onOpen={() => setOpen(open === key ? "" : key)}
            onMove={(by) => void edit("join", `move ${info.label}`, movedStep(steps, key, by))}
          />
        ) : null;
      })}
      <SavedStacks of="body" />
      <JointLooks />
    </Box>
  );
}

type RowProps = {
  name: string;
  number: number;
  last: boolean;
  step: BodyStep;
  info: BodyStepInfo;
  at: BodyClock;
  open: boolean;
  onOpen: () => void;
  onMove: (by: -1 | 1) => void;
};

function Row({ name, number, last, step, info, at, open, onOpen, onMove }: RowProps) {
  const keep = (what: string, values: Record<string, unknown>) =>
    void edit("join", `${info.label}: ${what}`, stepValues(name, values));
  return (
    <StepCard
      test="body-step"
      number={number}
      label={info.label}
      help={info.help}
      words={stepWords(step, at)}
      on={step.on}
      open={open}
      onOpen={onOpen}
      canUp={number > 1}
      canDown={!last}
      onMove={onMove}
      onRemove={() => void edit("join", `take ${info.label} out`, [{ path: pathOf("tidy", name), remove: true }])}
      onSwitch={(on) => keep(on ? "on" : "off", { on })}
    >
      <ParameterForm
        parameters={info.parameters}
        values={valuesOf(step, info.parameters)}
        selected={[]}
        onDrag={(v) => void preview({ join: stepValues(name, v) })}
        onCommit={keep}
      />
      <Where step={step} at={at} onKeep={keep} />
    </StepCard>
  );
}

type WhereProps = { step: BodyStep; at: BodyClock; onKeep: (what: string, values: Record<string, unknown>) => void };

/** On which joints a step acts, and in which part of the take. */
function Where({ step, at, onKeep }: WhereProps) {
  const { bodyGroups } = useCatalogue();
  const placed = step.first !== null || step.last !== null;
  return (
    <Box borderTopWidth="1px" borderColor="line" mt="1" pt="2">
      <Flex wrap="wrap" gap="1" role="group" aria-label="Joints">
        {bodyGroups.map((group) => {
          const on = !step.groups.length || step.groups.includes(group);
          return (
            <Plain
              key={group}
              size="2xs"
              aria-pressed={on}
              color={on ? "accent" : "dim"}
              onClick={() => onKeep("joints", { groups: groupsWith(step.groups, group, bodyGroups) })}
            >
              {BODY_GROUPS[group]?.label ?? group}
            </Plain>
          );
        })}
      </Flex>
      <Flex gap="1.5" mt="2" align="center">
        <Plain
          size="2xs"
          title="Mark a range on the ruler first: Shift drag; without one the step acts at the playhead"
          onClick={() => onKeep("where", placeOf(clock.range ?? { from: clock.frame, to: clock.frame }, at))}
        >
          On the marked range
        </Plain>
        <Plain size="2xs" disabled={!placed} onClick={() => onKeep("where", placeOf(null, at))}>
          On all of it
        </Plain>
      </Flex>
    </Box>
  );
}
