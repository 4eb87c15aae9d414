import { wavBlob } from "./wav";

/** A moment of sound as a form: what the tuning check and the first note send. */
export function momentForm(samples: Float32Array, sampleRate: number): FormData {
  const form = new FormData();
  form.append("sound", wavBlob([samples], sampleRate), "moment.wav");
  return form;
}
