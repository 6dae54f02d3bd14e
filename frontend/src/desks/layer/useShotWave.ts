import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { Peaks } from "../../timekit/tracks/wave";

/** The wave of a shot's mixed sound, null until it is there; a newer one takes its place when it has come. */
export function useShotWave(shot: string | undefined, version: number | undefined): Peaks | null {
  const [wave, setWave] = useState<{ of: string; peaks: Peaks } | null>(null);
  useEffect(() => {
    if (!shot) return;
    let gone = false;
    void api.shotPeaks(shot).then(
      ({ head, arrays }) => {
        if (!gone) setWave({ of: shot, peaks: { data: arrays.peaks!.data, rate: Number(head.rate) } });
      },
      () => undefined,
    );
    return () => {
      gone = true;
    };
  }, [shot, version]);
  return wave?.of === shot ? (wave?.peaks ?? null) : null;
}
