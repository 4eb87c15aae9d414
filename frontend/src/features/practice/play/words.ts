import type { Asked } from "../../../recording/keep";

export const FOCI: Record<NonNullable<Asked["focus"]>, { name: string; words: string }> = {
  tune: { name: "The left hand", words: "This time listen only to where each note lies. The rest may be as it likes." },
  time: { name: "The beat", words: "This time keep only the beat. Never mind a note that slips." },
};
