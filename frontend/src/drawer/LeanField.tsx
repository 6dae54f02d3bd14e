// How far the trunk leans after the head's travel, of a take's character or a shot's role.
import { AmountField } from "./parts";

export function LeanField({
  value,
  onDrag,
  onCommit,
}: {
  value: number;
  onDrag: (v: number) => void;
  onCommit: (v: number) => void;
}) {
  return (
    <AmountField
      label="Leans along"
      hint="How far the trunk bends so that the head goes where it went before the camera; the head stays on its neck"
      value={value}
      rest={0}
      low={0}
      high={1}
      step={0.01}
      onDrag={onDrag}
      onCommit={onCommit}
    />
  );
}
