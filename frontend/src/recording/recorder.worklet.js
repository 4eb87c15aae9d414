// Hands the microphone's raw samples to the page, in pieces of about 85 ms, with the frame at which each begins.
const PIECE = 4096;

class OwlRecorder extends AudioWorkletProcessor {
  constructor() {
    super();
    this.piece = new Float32Array(PIECE);
    this.filled = 0;
    this.begins = 0;
    this.ended = false;
    this.port.onmessage = () => {
      this.flush();
      this.ended = true;
      this.port.postMessage({ done: true });
    };
  }

  flush() {
    if (this.filled === 0) return;
    const samples = this.piece.slice(0, this.filled);
    this.port.postMessage({ samples, begins: this.begins }, [samples.buffer]);
    this.filled = 0;
  }

  process(inputs) {
    if (this.ended) return false;
    const channel = inputs[0][0];
    if (!channel) return true;
    if (this.filled === 0) this.begins = currentFrame;
    this.piece.set(channel.subarray(0, Math.min(channel.length, PIECE - this.filled)), this.filled);
    this.filled += channel.length;
    if (this.filled >= PIECE) {
      this.filled = PIECE;
      this.flush();
    }
    return true;
  }
}

registerProcessor("owl-recorder", OwlRecorder);
