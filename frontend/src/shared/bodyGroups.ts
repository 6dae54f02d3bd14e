// Groups of a body's joints that are tidied together, in words, with a letter each.
export const BODY_GROUPS: Record<string, { label: string; letter: string }> = {
  hips: { label: "hips", letter: "H" },
  spine: { label: "spine", letter: "S" },
  head: { label: "neck and head", letter: "N" },
  armLeft: { label: "left arm", letter: "A" },
  armRight: { label: "right arm", letter: "A" },
  handLeft: { label: "left hand", letter: "F" },
  handRight: { label: "right hand", letter: "F" },
  legLeft: { label: "left leg", letter: "L" },
  legRight: { label: "right leg", letter: "L" },
};

/** Groups in a few words; all joints where none is named. Pure. */
export function groupWords(groups: string[]): string {
  if (!groups.length) return "all joints";
  const words = groups.map((g) => BODY_GROUPS[g]?.label ?? g);
  return words.length > 3 ? `${words.length} groups` : words.join(", ");
}
