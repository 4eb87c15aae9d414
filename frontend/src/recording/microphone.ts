import worklet from "./recorder.worklet.js?url";

/** What may go wrong when a microphone is asked for, in words for a child. */
function words(error: unknown): string {
  const name = (error as { name?: string }).name;
  if (name === "NotAllowedError")
    return "The microphone is switched off for this page. Ask an adult to allow it, then try again.";
  if (name === "NotFoundError")
    return "There is no microphone on this device. You can send a recording as a file instead.";
  return "The microphone did not start. Close other programs that use it, then try again.";
}

export interface Microphone {
  context: AudioContext;
  /** Its port hands over raw samples; connected already. */
  node: AudioWorkletNode;
  close: () => void;
}

/** The microphone as it is, with nothing of the browser's made better. Throws an Error whose message can be shown. */
export async function microphone(): Promise<Microphone> {
  try {
    const stream = await navigator.mediaDevices.getUserMedia({
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: 1 },
    });
    const context = new AudioContext();
    await context.audioWorklet.addModule(worklet);
    const node = new AudioWorkletNode(context, "owl-recorder", { numberOfInputs: 1, numberOfOutputs: 0 });
    await context.resume();
    context.createMediaStreamSource(stream).connect(node);
    return {
      context,
      node,
      close: () => {
        stream.getTracks().forEach((track) => track.stop());
        void context.close();
      },
    };
  } catch (error) {
    throw new Error(words(error), { cause: error });
  }
}
