import type { Schemas } from "../../api/client";

/** The studio's settings with every default filled in. */
export type Words = Required<Schemas["StudioSettings"]>;
