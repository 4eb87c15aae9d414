import type { Schemas } from "../api/client";
import type { ReportNote } from "./nests";

type Report = Schemas["ReportOut"];
type Overrule = Schemas["OverruleOut"];

/** The report as it stands after the teacher's ear: the notes carry the word, advice from a cause that is not so is gone. */
export function withOverrules(report: Report, overrules: Overrule[]): Report {
  if (!overrules.length) return report;
  const byNote = new Map(overrules.map((own) => [own.note_index, own.says]));
  const notSo = new Set(overrules.map((own) => own.cause));
  return {
    ...report,
    notes: report.notes.map((note): ReportNote => {
      const says = byNote.get(note.index);
      return says && says !== "not_so" ? { ...note, overruled: says } : note;
    }),
    advice: report.advice.filter((own) => own.cause === null || !notSo.has(report.causes[own.cause]!.key)),
  };
}
