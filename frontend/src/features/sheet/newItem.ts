import type { Schemas } from "../../api/client";
import { firstRung } from "../workshop/terms";
import type { Item } from "./useSheet";

/** A ready exercise with the usual terms, as the house gives them to what is put on a sheet by one press. */
export const newItem = (catalogue: Schemas["Catalogue"], recipe: Schemas["Recipe"]): Item => ({
  recipe,
  target_bpm: recipe.tempo_bpm,
  good_repeats: 5,
  days_a_week: 5,
  level: "settling",
  note: "",
  temperament: "equal",
  a4_hz: null,
  mode: "steady",
  ladder_from_bpm: firstRung(catalogue, recipe.tempo_bpm),
  ladder_step_bpm: 6,
  ladder_clean: 2,
  wants_picture: false,
  audience: { class_ids: [], instruments: [], pupil_ids: [] },
  changes: [],
});
