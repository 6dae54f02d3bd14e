// Runs beside the sound: pieces of one channel, 2048 samples each, to the page.
/* global AudioWorkletProcessor, registerProcessor */
const LENGTH = 2048;

class Pieces extends AudioWorkletProcessor {
  constructor() {
    super();
    this.piece = new Float32Array(LENGTH);
    this.filled = 0;
  }

  process([input]) {
    const channel = input[0];
    if (!channel) return true;
    for (const sample of channel) {
      this.piece[this.filled++] = sample;
      if (this.filled === LENGTH) {
        this.port.postMessage(this.piece.slice());
        this.filled = 0;
      }
    }
    return true;
  }
}

registerProcessor("pieces", Pieces);
