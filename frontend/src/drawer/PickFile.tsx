// A button that brings in a file.
import { useRef } from "react";
import { Plain } from "./parts";

type Props = { word: string; accept: string; test: string; hint?: string; onPick: (file: File) => void };

export function PickFile({ word, accept, test, hint, onPick }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <Plain size="2xs" title={hint} onClick={() => picker.current?.click()}>
        {word}
      </Plain>
      <input
        ref={picker}
        type="file"
        hidden
        accept={accept}
        data-testid={test}
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) onPick(file);
          e.target.value = "";
        }}
      />
    </>
  );
}
