import { useEffect, useState } from "react";
import { api } from "../api/client";
import type { Peaks } from "../timekit/tracks/wave";

/** The wave of a sound, null until it is there. */
export function useWave(sound: string | undefined): Peaks | null {
  const [wave, setWave] = useState<{ of: string; peaks: Peaks } | null>(null);
  useEffect(() => {
    if (!sound) return;
    let gone = false;
    const keep = (peaks: Peaks) => {
      if (!gone) setWave({ of: sound, peaks });
    };
    void api.peaks(sound).then(
      (made) => keep({ data: made.arrays.peaks!.data, rate: Number(made.head.rate) }),
      () => undefined,
    );
    return () => {
      gone = true;
    };
  }, [sound]);
  return wave && wave.of === sound ? wave.peaks : null;
}
