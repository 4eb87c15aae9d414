import worklet from "./recorder.worklet.js?url";

export type MicrophoneFault = "refused" | "none" | "taken" | "unplugged" | "calls" | "failed";

/** Why there is no sound, in words for a child; each with what to do. */
const WORDS: Record<MicrophoneFault, string> = {
  refused: "The microphone is switched off for this page. Ask an adult to allow it, then try again.",
  none: "There is no microphone on this device. You can send a recording as a file instead.",
  taken: "Another program is using the microphone. Close it, then try again.",
  unplugged: "The microphone went away. What you played until then is kept. Plug it in, then try again.",
  calls: "The calls to answer did not come. Look whether this device is on the network, then try again.",
  failed: "The microphone did not start. Reload the page, then try again.",
};

export class MicrophoneError extends Error {
  constructor(
    readonly fault: MicrophoneFault,
    cause?: unknown,
  ) {
    super(WORDS[fault], { cause });
  }
}

/** Engines agree on these names for the most part (Media Capture and Streams, W3C); older ones have their own for some. */
const FAULTS: Record<string, MicrophoneFault> = {
  NotAllowedError: "refused",
  PermissionDeniedError: "refused",
  SecurityError: "refused",
  NotFoundError: "none",
  DevicesNotFoundError: "none",
  OverconstrainedError: "none",
  NotReadableError: "taken",
  TrackStartError: "taken",
  AbortError: "taken",
};

export const faultOf = (error: unknown): MicrophoneFault =>
  FAULTS[(error as { name?: string } | undefined)?.name ?? ""] ?? "failed";

/** A headset that sends speech sends 8 or 16 kHz: notes are heard, their beginnings badly. */
const NARROW_HZ = 16_000;

export interface Microphone {
  context: AudioContext;
  /** Its port hands over raw samples; connected already. */
  node: AudioWorkletNode;
  /** Only speech comes through: a headset without wires, for the most part. */
  narrow: boolean;
  /** Called once, when the device goes away in the middle. */
  onLost: (act: () => void) => void;
  close: () => void;
}

/**
 * The microphone as it is, with nothing of the browser's made better. Throws a MicrophoneError whose message can be shown. All that
 * differs between engines stands here: names of faults; whether the rate of the device is told; a context that begins asleep.
 */
export async function microphone(): Promise<Microphone> {
  if (!navigator.mediaDevices?.getUserMedia) throw new MicrophoneError("none");
  let stream: MediaStream | null = null;
  let context: AudioContext | null = null;
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: 1 },
    });
    const track = stream.getAudioTracks()[0]!;
    context = new AudioContext();
    await context.audioWorklet.addModule(worklet);
    const node = new AudioWorkletNode(context, "owl-recorder", { numberOfInputs: 1, numberOfOutputs: 0 });
    await context.resume();
    context.createMediaStreamSource(stream).connect(node);
    const rate = track.getSettings().sampleRate;
    const [openStream, openContext] = [stream, context];
    return {
      context,
      node,
      narrow: rate !== undefined && rate <= NARROW_HZ,
      onLost: (act) => track.addEventListener("ended", act, { once: true }),
      close: () => {
        openStream.getTracks().forEach((own) => own.stop());
        void openContext.close();
      },
    };
  } catch (error) {
    stream?.getTracks().forEach((own) => own.stop());
    void context?.close();
    throw new MicrophoneError(faultOf(error), error);
  }
}
