// Frames of characters as the process of feeds, or a receiver, sends them: shown with what was described of each before.
import { useLive, showLive, withDriven } from "../viewer/live";
import { readFrame, senderOf, type Described } from "./feedModel";

export class Frames {
  private readonly described = new Map<number, Described>();

  /** What stays the same from frame to frame of a sender's character. */
  describe(said: Described) {
    this.described.set(said.sender, said);
  }

  forget() {
    this.described.clear();
  }

  /** Shows a frame of one of the senders that are shown; called: what a sender is called. */
  show(raw: ArrayBuffer, channels: number, shown: number[], called: (sender: number) => string) {
    const about = this.described.get(senderOf(raw));
    const found = about && readFrame(raw, channels, about);
    if (!found || !shown.includes(found.sender)) return;
    const { sender, weights, motion, shifts, heard } = found;
    const one = { ...about, of: String(sender), called: called(sender), weights, motion, shifts, heard };
    const driven = withDriven(useLive.getState().driven, one, shown.map(String));
    showLive({ on: true, weights: [], pose: [], calms: false, driven });
  }
}
