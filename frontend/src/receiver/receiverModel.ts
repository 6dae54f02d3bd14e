// What the stand-in for a driven program measures, in words. Pure.

export type Arriving = {
  sender: number;
  host: string;
  called: string;
  rate: number;
  age: number | null;
  lost: number;
  packets: number;
  channels: number;
  joints: string[];
  /** Milliseconds between arrivals: the middle and the 95th of a hundred. */
  gap: number;
  longest: number;
};
export type Received = { refused: number; senders: Arriving[] };

/**
 * What is known of a sender, as rows of a name and a value. late: [frames, middle, 95th of a hundred] of milliseconds until it
 * is posed.
 */
export function factsOf(one: Arriving, late: [number, number, number]): [string, string][] {
  const brought = [
    one.channels ? `${one.channels} channels` : "",
    one.joints.length ? `${one.joints.length} joints` : "",
  ];
  return [
    ["Arrives", `${one.rate.toFixed(1)} a second`],
    ["Brings", brought.filter(Boolean).join(", ") || "nothing that is known"],
    ["Between two", `${one.gap.toFixed(1)} ms, 95% ${one.longest.toFixed(1)} ms`],
    ["Lost", `${one.lost} in the last minute`],
    ["Until posed", late[0] ? `${late[1].toFixed(1)} ms, 95% ${late[2].toFixed(1)} ms` : "not yet"],
    ["Packets", String(one.packets)],
  ];
}

/** The three numbers that a character notes of how late it is. */
export function lateOf(noted: string | undefined): [number, number, number] {
  const [count = 0, middle = 0, high = 0] = (noted ?? "").split(" ").map(Number);
  return [count || 0, middle || 0, high || 0];
}

/** What to say while nothing is shown. */
export const waitingFor = (received: Received | null, reached: boolean): string =>
  !reached
    ? "The receiver does not answer. Is it still running?"
    : received?.refused
      ? `${received.refused} datagrams came that are no Open Sound Control.`
      : "Nothing arrives yet. In the Feed panel at Gather, send on to the port that the receiver hears.";
