// One skeleton as it is drawn in the match view.
import { MARGIN, type Frame, type Joint, type Place } from "./matchModel";

type Drawing = {
  joints: Joint[];
  places: Place[];
  clip: Frame;
  look: (joint: Joint) => "matched" | "unmatched" | "doubtful" | "doubled" | string;
  meant: string;
  chosen: string;
};

/** One skeleton: a full dot is matched, an open one is not, a square is moved by the same as another, an accent wants a look. */
export function SkeletonDrawing({ joints, places, clip, look, meant, chosen }: Drawing) {
  const id = `clip${Math.round(clip.x)}`;
  return (
    <g clipPath={`url(#${id})`}>
      <clipPath id={id}>
        <rect x={clip.x - MARGIN + 2} y={0} width={clip.width + 2 * MARGIN - 4} height={clip.height + 4 * MARGIN} />
      </clipPath>
      {joints.map((j, i) => {
        const above = j.parent >= 0 ? places[j.parent] : undefined;
        const at = places[i]!;
        return (
          above && (
            <line
              key={j.name}
              x1={above.x}
              y1={above.y}
              x2={at.x}
              y2={at.y}
              stroke="var(--chakra-colors-dim)"
              strokeOpacity={j.part ? 0.75 : 0.3}
              strokeWidth="2"
              strokeDasharray={j.side === "R" ? "5 3" : undefined}
            />
          )
        );
      })}
      {joints.map((j, i) => {
        const { x, y } = places[i]!;
        const how = look(j);
        const wants = how === "doubtful" || how === "doubled";
        const paint = {
          fill: how === "unmatched" ? "var(--chakra-colors-bg-ground)" : wants ? "var(--chakra-colors-accent)" : "var(--chakra-colors-ink)",
          stroke: wants ? "var(--chakra-colors-accent)" : "var(--chakra-colors-ink)",
          strokeOpacity: how === "unmatched" && !j.part ? 0.4 : 1,
        }; // prettier-ignore
        return (
          <g key={j.name} data-joint={j.name} data-state={how}>
            {how === "doubled" ? (
              <rect x={x - 3.5} y={y - 3.5} width="7" height="7" {...paint} />
            ) : (
              <circle cx={x} cy={y} r={3.2} {...paint} />
            )}
            {(j.name === meant || j.name === chosen) && (
              <>
                <circle cx={x} cy={y} r={7} fill="none" stroke="var(--chakra-colors-ink)" strokeWidth="1.5" />
                <circle
                  cx={x}
                  cy={y}
                  r={10}
                  fill="none"
                  stroke="var(--chakra-colors-ink)"
                  strokeWidth={j.name === chosen ? 2 : 1}
                />
              </>
            )}
          </g>
        );
      })}
    </g>
  );
}
