import Box from "@mui/material/Box";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { PlayerBar } from "../../music/PlayerBar";
import { ScoreView } from "../../music/ScoreView";
import { usePlayer } from "../../music/usePlayer";
import { useWidth } from "../../music/useWidth";
import { Few } from "../../ui/Few";
import { Loading, Note, Trouble } from "../../ui/states";

type Company = "alone" | "click" | "drone" | "backing" | "round" | "calls";
const COMPANY: [Company, string][] = [
  ["alone", "The line"],
  ["click", "With a click"],
  ["drone", "Over a drone"],
  ["backing", "With a band"],
  ["round", "As a round"],
];
const CALLS: [Company, string] = ["calls", "With the calls"];

interface Props {
  assignment: Schemas["AssignmentOut"];
  instrument: string;
}

/** One line, as large as the wall, and what sounds with it. */
export function BigLine({ assignment, instrument }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>();
  const [bpm, setBpm] = useState(assignment.ladder_from_bpm ?? assignment.target_bpm);
  const [company, setCompany] = useState<Company>("alone");
  const [line, setLine] = useState(true);
  const tempo = useDeferredValue(bpm);
  const recipe = { ...assignment.recipe, tempo_bpm: tempo };
  const preview = useQuery({
    queryKey: ["preview", recipe, width, instrument, "usual", "large"],
    queryFn: () =>
      answer(
        api.POST("/api/preview", {
          body: {
            recipe,
            instrument: instrument as Schemas["PreviewQuestion"]["instrument"],
            width: width!,
            size: "large",
          },
        }),
      ),
    enabled: width !== null,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const score = preview.data?.part?.score;
  const kinds = score?.calls ? [...COMPANY, CALLS] : COMPANY;
  const own = kinds.some(([key]) => key === company) ? company : "alone";
  const src = score && `${score.demonstration_url}&company=${own}${line || own === "alone" ? "" : "&line=false"}`;
  const player = usePlayer(src, score?.demonstration_onsets.map((at, index) => ({ index, at })) ?? []);
  return (
    <Box ref={ref}>
      {preview.isError ? (
        <Trouble error={preview.error} again={() => void preview.refetch()} />
      ) : preview.data && !score ? (
        <Note>{preview.data.left_out}</Note>
      ) : score ? (
        <>
          <ScoreView score={score} current={player.current} />
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", mt: 1.5 }}>
            <Few<Company> label="What sounds" value={own} values={kinds} onPick={setCompany} />
            {own !== "alone" && own !== "round" && (
              <Few<boolean>
                label="Whether the line sounds too"
                value={line}
                values={[
                  [true, "and the line"],
                  [false, "without the line"],
                ]}
                onPick={setLine}
              />
            )}
            <Box sx={{ display: "flex", alignItems: "center", gap: 2, minWidth: 260 }}>
              <Typography id="lesson-tempo">Tempo {Math.round(bpm)}</Typography>
              <Slider
                aria-labelledby="lesson-tempo"
                value={bpm}
                min={Math.min(40, assignment.target_bpm)}
                max={Math.max(assignment.target_bpm, 60)}
                step={2}
                onChange={(_, value) => setBpm(value)}
              />
            </Box>
          </Box>
          <Box sx={{ mt: 1 }}>
            <PlayerBar key={src} large ownTempo player={player} src={src!} name="the warm-up" />
          </Box>
        </>
      ) : (
        <Loading what="Engraving" />
      )}
    </Box>
  );
}
