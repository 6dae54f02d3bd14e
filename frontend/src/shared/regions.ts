// Regions have fixed colours that colour-blind people can tell apart, and a letter each.
export type Region = "brows" | "lids" | "gaze" | "nose" | "cheeks" | "jaw" | "lips" | "tongue" | "head" | "extra";

export const REGIONS: { name: Region; letter: string; colour: string; light: string }[] = [
  { name: "brows", letter: "B", colour: "#d9c86a", light: "#8a7a1c" },
  { name: "lids", letter: "L", colour: "#86c8ea", light: "#1f6f9c" },
  { name: "gaze", letter: "G", colour: "#4fb8a4", light: "#12796a" },
  { name: "nose", letter: "N", colour: "#b3b05a", light: "#6b6a15" },
  { name: "cheeks", letter: "C", colour: "#de8296", light: "#a83c55" },
  { name: "jaw", letter: "J", colour: "#c78fd0", light: "#84408f" },
  { name: "lips", letter: "P", colour: "#f0936b", light: "#b04f22" },
  { name: "tongue", letter: "T", colour: "#f5b9c6", light: "#96505f" },
  { name: "head", letter: "H", colour: "#bfd17a", light: "#5f7316" },
  { name: "extra", letter: "X", colour: "#a9b4c2", light: "#526071" },
];

/** Channels of how far the head went before a camera that stood still. */
export const TRAVEL = new Set(["headSide", "headRise", "headForward"]);

export type Side = "left" | "right" | "middle";

export function sideOf(channel: string): Side {
  return channel.endsWith("Left") ? "left" : channel.endsWith("Right") ? "right" : "middle";
}

/** How far a channel goes at full activity: weights to 1, angles to 30 degrees, travel of the head to 100 millimetres,
 * slides of joints to 10. */
export function fullScale(channel: string): number {
  if (channel.startsWith("limb ")) return 100;
  if (channel.startsWith("joint ")) return / slide [xyz]$/.test(channel) ? 10 : 30;
  if (TRAVEL.has(channel)) return 100;
  return /^(head|gaze)/.test(channel) ? 30 : 1;
}

export function colourOf(region: string, light: boolean): string {
  const found = REGIONS.find((r) => r.name === region) ?? REGIONS[0]!;
  return light ? found.light : found.colour;
}

/** The channel of the other side; one of the middle is its own. Pure. */
export function exchanged(channel: string): string {
  const side = sideOf(channel);
  if (side === "left") return `${channel.slice(0, -4)}Right`;
  return side === "right" ? `${channel.slice(0, -5)}Left` : channel;
}
