// What holds keys that the key kit works on: an open take, or the open layer of a shot.
import type { KeyEdit, KeyReport } from "../api/client";
import type { Hand } from "./keys";

export interface KeyHolder {
  readonly closed: boolean;
  /** Keys by channel. */
  readonly hand: Hand;
  /** Channels that there are. */
  readonly channels: string[];
  /** Channels of a character's rig that are shown in place of the chosen ones; null where the chosen ones are. */
  readonly shownOnRig: string[] | null;
  /** Whether a channel without keys takes some, as those of a layer do; one of a take is reduced to keys first. */
  readonly takesKeys: boolean;
  /** Makes an edit in its turn and keeps it; what it did by channel, null where it could not be made. */
  editKeys(label: string, edit: KeyEdit): Promise<Record<string, KeyReport> | null>;
  /** Shows an edit without keeping it. */
  tryKeys(edit: KeyEdit): void;
}
