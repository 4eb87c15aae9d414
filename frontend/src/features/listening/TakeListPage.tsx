import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Paging } from "../../ui/Paging";
import { Empty, Loading, Trouble } from "../../ui/states";
import { feltWords, pieceWords } from "../../ui/pieces";
import { dayWords, instrumentWords, verdictWords } from "../../ui/words";
import { useSay } from "../../ui/vocabulary";
import { AcceptTogether, TakenTogether, type Together } from "./AcceptTogether";
import { Narrow, useNarrowed } from "./Narrow";
import { Recheck } from "./Recheck";

type TakeRow = Schemas["TakeRow"];

const STATE_WORDS: Record<TakeRow["state"], string> = {
  waiting: "waiting to be checked",
  checking: "being checked",
  checked: "",
  refused: "not judged",
  stuck: "could not be checked",
};

const NEEDS: Record<NonNullable<TakeRow["need"]>, string> = {
  help: "Asks for help, or found it too hard",
  unclear: "Your ear is needed",
  refused: "Not judged",
  wrong_notes: "Wrong notes",
  unusual: "Unlike this pupil",
  look: "Worth a look",
  plain: "Good goes",
  checking: "Being checked",
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

function Nothing({ about: [title, words] }: { about: [string, string] }) {
  return (
    <Empty title={title}>
      <Typography>{words}</Typography>
    </Empty>
  );
}

/** The teacher's list of takes: what wants an ear first. */
export function TakeListPage() {
  const [search, setSearch] = useSearchParams();
  const only = LISTS.find((own) => own === search.get("only")) ?? "unmarked";
  const page = Number(search.get("page") ?? 1) || 1;
  const narrowed = useNarrowed();
  // It outlives the rows that it is about.
  const [made, setMade] = useState<Together | null>(null);
  const takes = useQuery({
    queryKey: ["takes", only, page, narrowed.query],
    queryFn: () => answer(api.GET("/api/takes", { params: { query: { only, page, ...narrowed.query } } })),
    placeholderData: keepPreviousData,
    refetchInterval: 10_000,
  });
  const turn = (to: Record<string, string>) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      for (const [key, value] of Object.entries(to)) next.set(key, value);
      return next;
    });
  const first = only === "unmarked" ? takes.data?.takes.find((take) => take.need !== "checking") : undefined;
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          Listening
        </Typography>
        <ToggleButtonGroup
          exclusive
          value={only}
          onChange={(_, next: string | null) => next && turn({ only: next, page: "1" })}
          aria-label="Which takes"
        >
          <ToggleButton value="unmarked">Waiting for you</ToggleButton>
          <ToggleButton value="all">All handed in</ToggleButton>
          <ToggleButton value="goes">Goes at home</ToggleButton>
        </ToggleButtonGroup>
        {first && (
          <Button variant="contained" component={Link} to={`/listening/${first.id}`}>
            Begin
          </Button>
        )}
      </Box>
      <Narrow own={narrowed} />
      <Recheck />
      {takes.isPending ? (
        <Loading what="Fetching the takes" />
      ) : takes.isError ? (
        <Trouble error={takes.error} again={() => void takes.refetch()} />
      ) : takes.data.total === 0 ? (
        narrowed.any ? (
          <Empty title="None of these.">
            <Button variant="outlined" onClick={narrowed.clear}>
              Show all
            </Button>
          </Empty>
        ) : (
          <Nothing about={EMPTY[takes.data.none_yet ? "all" : only]} />
        )
      ) : (
        <>
          {groupsOf(takes.data.takes).map(([need, rows]) => (
            <Box component="section" key={need ?? "all"} sx={{ mb: 2 }} aria-label={need ? NEEDS[need] : "Takes"}>
              {need && (
                <Box sx={{ display: "flex", alignItems: "center", flexWrap: "wrap", gap: 2, mb: 0.5 }}>
                  <Typography variant="h2">
                    {NEEDS[need]}
                    {takes.data.pages === 1 && ` (${rows.length})`}
                  </Typography>
                </Box>
              )}
              <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
                {rows.map((take) => (
                  <Row key={take.id} take={take} />
                ))}
              </Paper>
              {need === "plain" && <AcceptTogether takes={rows} onDone={setMade} />}
            </Box>
          ))}
          <Paging page={takes.data.page} pages={takes.data.pages} onTurn={(to) => turn({ page: String(to) })} />
        </>
      )}
      {made && <TakenTogether made={made} onClose={() => setMade(null)} />}
    </>
  );
}

/** The takes as they come, cut where another need begins. */
function groupsOf(takes: TakeRow[]): [TakeRow["need"], TakeRow[]][] {
  const groups: [TakeRow["need"], TakeRow[]][] = [];
  for (const take of takes) {
    const last = groups.at(-1);
    if (last && last[0] === take.need) last[1].push(take);
    else groups.push([take.need, [take]]);
  }
  return groups;
}

function Row({ take }: { take: TakeRow }) {
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
          {take.need === "look" || take.need === "wrong_notes" || take.need === "unusual" || take.need === "unclear"
            ? say(take.why)
            : take.refusal
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
