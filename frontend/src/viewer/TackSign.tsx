// The sign for tacks: a place that is held, with the way by which it came there.
export const TackSign = ({ size = 15 }: { size?: number }) => (
  <svg width={size} height={size} viewBox="0 0 24 24" fill="none" stroke="currentColor" strokeWidth="2" aria-hidden>
    <path d="M15 3l6 6-6 6-6-6z" />
    <path d="M10.5 13.5L3 21" strokeDasharray="3 2.5" />
    <circle cx="15" cy="9" r="1" fill="currentColor" />
  </svg>
);
