import { useEffect, type RefObject } from "react";

/** Shows the loudness of a stream as the width of an element, -60..0 dB. */
export function useLevel(stream: MediaStream | null, element: RefObject<HTMLDivElement | null>) {
  useEffect(() => {
    if (!stream?.getAudioTracks().length) return;
    const context = new AudioContext();
    const meter = context.createAnalyser();
    meter.fftSize = 1024;
    context.createMediaStreamSource(stream).connect(meter);
    const samples = new Float32Array(meter.fftSize);
    let asked = 0;
    const show = () => {
      meter.getFloatTimeDomainData(samples);
      const power = samples.reduce((sum, v) => sum + v * v, 0) / samples.length;
      const level = Math.min(Math.max((10 * Math.log10(power + 1e-12) + 60) / 60, 0), 1);
      if (element.current) element.current.style.width = `${level * 100}%`;
      asked = requestAnimationFrame(show);
    };
    show();
    return () => {
      cancelAnimationFrame(asked);
      void context.close();
    };
  }, [stream, element]);
}
