// What becomes of the way that a body goes, and how it fits a character of another build.
import { ChoiceField } from "../../drawer/ChoiceField";
import { AmountField, Section, Toggle } from "../../drawer/parts";
import { edit, preview, useOpen } from "../../workspace/workspace";

const WAYS: Record<string, string> = {
  scaled: "by the character's size",
  metres: "in metres as recorded",
  ahead: "ahead only",
  aside: "to the sides only",
  spot: "on the spot",
  still: "not even up and down",
};
const LIMBS = [
  {
    path: "arms",
    label: "Hands arrive",
    hint: "0 keeps how the arms bend, 1 where the hands are; between, both in part",
  },
  {
    path: "legs",
    label: "Feet arrive",
    hint: "0 keeps how the legs bend, 1 where the feet are; between, both in part",
  },
] as const;

export function BodyWay() {
  const { opened } = useOpen("opened");
  const join = opened!.join.body;
  return (
    <Section title="Travel and size">
      <ChoiceField
        word="Travels"
        label="How the body travels"
        value={join.travel}
        choices={WAYS}
        onChoose={(v) => void edit("join", `travel ${WAYS[v]}`, [{ path: "travel", value: v }])}
      />
      <Toggle
        label="Starts where the character stands"
        hint="At the first frame of the take, facing its way"
        on={join.start}
        onChange={(on) =>
          void edit("join", on ? "start where the character stands" : "start as recorded", [
            { path: "start", value: on },
          ])
        }
      />
      {LIMBS.map(({ path, label, hint }) => (
        <AmountField
          key={path}
          label={label}
          hint={hint}
          value={join[path]}
          rest={0}
          low={0}
          high={1}
          step={0.05}
          onDrag={(v) => void preview({ join: [{ path, value: v }] })}
          onCommit={(v) => void edit("join", label.toLowerCase(), [{ path, value: v }])}
        />
      ))}
    </Section>
  );
}
