// What is going on at the Gather desk besides the open take.
import { create } from "zustand";

/** What takes the drawer: the recorder of a camera, the feed, or neither. */
export const useGathering = create<{ recording: boolean; feeding: boolean }>(() => ({
  recording: false,
  feeding: false,
}));
export const setRecording = (recording: boolean) => useGathering.setState({ recording, feeding: false });
export const setFeeding = (feeding: boolean) => useGathering.setState({ feeding, recording: false });
