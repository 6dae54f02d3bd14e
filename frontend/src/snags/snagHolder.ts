// What is looked through for snags: an open take, or the role of a shot that is worked on.
import type { SnagList } from "../api/client";
import type { Triable } from "../workspace/trial";

export type Dismissal = { kind: string; reason: string; first: number; last: number };

export interface SnagHolder extends Triable<{ mends?: string[] }> {
  /** What a list of its snags is known by. */
  readonly snagsOf: string;
  findSnags(): Promise<SnagList>;
  /** Accepts mends in its turn among the other changes. */
  mendSnags(keys: string[]): Promise<void>;
  /** Lets a snag be, or with null looks at it again. */
  dismissSnag(key: string, label: string, value: Dismissal | null): Promise<void>;
}
