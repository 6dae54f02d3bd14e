// The picture of a fit: how well two recordings lie together at each offset, with the one that was found and the one that there is.
import type { SyncEstimate } from "../api/client";

type Props = { found: Pick<SyncEstimate, "offset" | "lags" | "scores">; now: number; label: string };

/** now: the offset that there is. */
export function FitPicture({ found, now, label }: Props) {
  const [w, h] = [300, 64];
  const low = Math.min(...found.scores);
  const high = Math.max(...found.scores, low + 1e-6);
  const [first, last] = [found.lags[0] ?? 0, found.lags[found.lags.length - 1] ?? 1];
  const x = (lag: number) => ((lag - first) / Math.max(last - first, 1e-6)) * w;
  const points = found.lags
    .map(
      (lag, i) => `${x(lag).toFixed(1)},${(h - 4 - ((found.scores[i]! - low) / (high - low)) * (h - 10)).toFixed(1)}`,
    )
    .join(" ");
  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      width="100%"
      role="img"
      aria-label={label}
      style={{ display: "block", background: "var(--chakra-colors-bg-lane)", borderRadius: 3 }}
    >
      <line x1={x(0)} x2={x(0)} y1="0" y2={h} stroke="var(--chakra-colors-grid)" />
      <line x1={x(now)} x2={x(now)} y1="0" y2={h} stroke="var(--chakra-colors-dim)" strokeDasharray="3 3" />
      <polyline points={points} fill="none" stroke="var(--chakra-colors-ink)" strokeWidth="1.3" />
      <line
        x1={x(found.offset)}
        x2={x(found.offset)}
        y1="0"
        y2={h}
        stroke="var(--chakra-colors-accent)"
        strokeWidth="1.5"
      />
    </svg>
  );
}
