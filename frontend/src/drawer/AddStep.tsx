// Picks a step that is added to a stack.
import { NativeSelect } from "@chakra-ui/react";

type Props<S> = { label: string; steps: S[]; onAdd: (step: S) => void };

export function AddStep<S extends { name: string; label: string }>({ label, steps, onAdd }: Props<S>) {
  return (
    <NativeSelect.Root size="xs" w="124px">
      <NativeSelect.Field
        aria-label={label}
        value=""
        onChange={(e) => {
          const step = steps.find((s) => s.name === e.target.value);
          if (step) onAdd(step);
        }}
      >
        <option value="">Add a step…</option>
        {steps.map((s) => (
          <option key={s.name} value={s.name}>
            {s.label}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}
