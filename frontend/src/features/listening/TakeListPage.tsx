import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Empty, Loading, Trouble } from "../../ui/states";
import { feltWords, pieceWords } from "../../ui/pieces";
import { dayWords, instrumentWords, verdictWords } from "../../ui/words";
import { useSay } from "../../ui/vocabulary";
import { Recheck } from "./Recheck";

const STATE_WORDS: Record<Schemas["TakeRow"]["state"], string> = {
  waiting: "waiting to be checked",
  checking: "being checked",
  checked: "",
  refused: "not judged",
  stuck: "could not be checked",
};

const LISTS = ["unmarked", "all", "goes"] as const;
const EMPTY: Record<(typeof LISTS)[number], [string, string]> = {
  unmarked: ["Every take has your word.", "New ones appear here by themselves."],
  all: ["No takes yet.", "They appear here as pupils hand them in."],
  goes: [
    "No goes to look into.",
    "What pupils record at home is theirs until they hand it in. How many of the last ones you may look into is set in the studio.",
  ],
};

/** The teacher's list of takes: what waits for a word first. */
export function TakeListPage() {
  const [search, setSearch] = useSearchParams();
  const only = LISTS.find((own) => own === search.get("only")) ?? "unmarked";
  const page = Number(search.get("page") ?? 1) || 1;
  const takes = useQuery({
    queryKey: ["takes", only, page],
    queryFn: () => answer(api.GET("/api/takes", { params: { query: { only, page } } })),
    placeholderData: keepPreviousData,
    refetchInterval: 10_000,
  });
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          Listening
        </Typography>
        <ToggleButtonGroup
          exclusive
          value={only}
          onChange={(_, next: string | null) => next && setSearch({ only: next })}
          aria-label="Which takes"
        >
          <ToggleButton value="unmarked">Waiting for you</ToggleButton>
          <ToggleButton value="all">All handed in</ToggleButton>
          <ToggleButton value="goes">Goes at home</ToggleButton>
        </ToggleButtonGroup>
      </Box>
      <Recheck />
      {takes.isPending ? (
        <Loading what="Fetching the takes" />
      ) : takes.isError ? (
        <Trouble error={takes.error} again={() => void takes.refetch()} />
      ) : takes.data.total === 0 ? (
        <Empty title={EMPTY[only][0]}>
          <Typography>{EMPTY[only][1]}</Typography>
        </Empty>
      ) : (
        <>
          <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
            {takes.data.takes.map((take) => (
              <Row key={take.id} take={take} />
            ))}
          </Paper>
          {takes.data.pages > 1 && (
            <Box sx={{ display: "flex", gap: 2, alignItems: "center", mt: 2 }}>
              <Button
                variant="outlined"
                disabled={page <= 1}
                onClick={() => setSearch({ only, page: String(page - 1) })}
              >
                Back
              </Button>
              <Typography>
                Page {takes.data.page} of {takes.data.pages}
              </Typography>
              <Button
                variant="outlined"
                disabled={page >= takes.data.pages}
                onClick={() => setSearch({ only, page: String(page + 1) })}
              >
                On
              </Button>
            </Box>
          )}
        </>
      )}
    </>
  );
}

function Row({ take }: { take: Schemas["TakeRow"] }) {
  const say = useSay();
  return (
    <Box component="li" sx={{ borderBottom: `1px solid ${colours.line}`, "&:last-child": { borderBottom: 0 } }}>
      <Box
        component={Link}
        to={`/listening/${take.id}`}
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "1fr auto", md: "210px 1fr 310px 100px 120px" },
          gap: { xs: 0.5, md: 2 },
          px: 2,
          py: 1.2,
          color: "inherit",
          textDecoration: "none",
          "&:hover": { bgcolor: colours.moss },
        }}
      >
        <Box>
          <b>{take.pupil_name}</b>{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            {instrumentWords[take.instrument]}
          </Box>
        </Box>
        <Box sx={{ gridColumn: { xs: "1 / -1", md: "auto" } }}>
          {say(take.title)}
          {take.bars && `, ${say(pieceWords(take.bars))}`}
          {(take.asks_for_help || take.felt) && (
            <Box
              component="span"
              sx={{
                color: take.asks_for_help || take.felt === "too_hard" ? "secondary.main" : "text.secondary",
                fontWeight: take.asks_for_help ? 700 : 400,
              }}
            >
              {" "}
              ·{" "}
              {[take.asks_for_help && "asks for help", take.felt && `felt ${feltWords[take.felt]}`]
                .filter(Boolean)
                .join(", ")}
            </Box>
          )}
        </Box>
        <Box sx={{ color: "text.secondary" }}>
          {take.refusal
            ? `Not judged: ${take.refusal}`
            : take.pitch_word
              ? `pitch ${take.pitch_word}, rhythm ${take.rhythm_word}`
              : STATE_WORDS[take.state]}
        </Box>
        <Box sx={{ color: "text.secondary" }}>
          {take.played_bpm ? `${Math.round(take.played_bpm)} of ${take.target_bpm}` : ""}
        </Box>
        <Box sx={{ textAlign: { md: "right" } }}>
          {take.verdict ? verdictWords(take.verdict) : dayWords(take.recorded_at)}
        </Box>
      </Box>
    </Box>
  );
}
