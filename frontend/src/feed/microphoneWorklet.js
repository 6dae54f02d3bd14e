// Runs beside the sound: pieces of up to two channels, 2048 samples of each, channel by channel, to the page.
/* global AudioWorkletProcessor, registerProcessor */
const LENGTH = 2048;
const MOST_CHANNELS = 2;

class Pieces extends AudioWorkletProcessor {
  constructor() {
    super();
    this.begin(1);
  }

  begin(channels) {
    this.channels = channels;
    this.piece = new Float32Array(LENGTH * channels);
    this.filled = 0;
  }

  process([input]) {
    const channels = Math.min(input.length, MOST_CHANNELS);
    if (!channels) return true;
    if (channels !== this.channels) this.begin(channels);
    for (let i = 0; i < input[0].length; i++) {
      for (let c = 0; c < channels; c++) this.piece[this.filled++] = input[c][i];
      if (this.filled === this.piece.length) {
        this.port.postMessage({ piece: this.piece.slice(), channels });
        this.filled = 0;
      }
    }
    return true;
  }
}

registerProcessor("pieces", Pieces);
