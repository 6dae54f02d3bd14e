// What is going on at the Gather desk besides the open take.
import { create } from "zustand";

export const useGathering = create<{ recording: boolean }>(() => ({ recording: false }));
export const setRecording = (recording: boolean) => useGathering.setState({ recording });
