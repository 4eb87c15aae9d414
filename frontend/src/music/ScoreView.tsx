import Box from "@mui/material/Box";
import { memo, useMemo, useRef, useState } from "react";

import type { Schemas } from "../api/client";
import { colours } from "../app/theme";
import { HatchPattern, NestGlyph } from "./NestGlyph";
import { nestRadius, nestShape, noteWords, type ReportNote, stringBands } from "./nests";

type Score = Schemas["ScoreOut"];
type System = Schemas["SystemOut"];
type Extra = Schemas["ReportExtra"];

interface Props {
  score: Score;
  /** Draws a lane of nests under every system. */
  notes?: ReportNote[];
  extras?: Extra[];
  /** The note that sounds now. */
  current?: number | null;
  /** Notes to light up (those that carry a cause). */
  lit?: ReadonlySet<number>;
  onPoint?: (index: number | null) => void;
  onPlay?: (index: number) => void;
  showStrings?: boolean;
  /** Notes can be chosen, in the engraving or in the lane under it: to pin their fingering. */
  onChoose?: (index: number, anchor: Element) => void;
  pinned?: ReadonlySet<number>;
}

const NEST = 13;
const NEST_LANE = 54;
const BAND_LANE = 26;

/**
 * The engraved score, one picture a system, each with its own lanes underneath: strings, and nests where there is a
 * report. Drawn again only when its own parts change: while recording the page around it changes ten times a second.
 */
export const ScoreView = memo(function ScoreView({
  score,
  notes,
  extras,
  current,
  lit,
  onPoint,
  onPlay,
  showStrings = true,
  onChoose,
  pinned,
}: Props) {
  const [focus, setFocus] = useState(0);
  const box = useRef<HTMLDivElement>(null);
  const byIndex = useMemo(() => new Map(notes?.map((note) => [note.index, note])), [notes]);

  const move = (to: number) => {
    const index = Math.max(0, Math.min(score.notes.length - 1, to));
    setFocus(index);
    box.current?.querySelector<SVGGElement>(`[data-nest="${index}"], [data-finger="${index}"]`)?.focus();
  };
  const onKey = (event: React.KeyboardEvent) => {
    const target = (event.target as Element).closest("[data-nest], [data-finger]");
    if (!target) return;
    const index = Number(target.getAttribute("data-nest") ?? target.getAttribute("data-finger"));
    const step = { ArrowRight: 1, ArrowLeft: -1, Home: -index, End: score.notes.length }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      event.stopPropagation();
      move(index + step);
    } else if ((event.key === "Enter" || event.key === " ") && onChoose) {
      event.preventDefault();
      event.stopPropagation();
      onChoose(index, target);
    } else if (event.key === "Enter" && onPlay) {
      event.preventDefault();
      event.stopPropagation();
      onPlay(index);
    }
  };

  return (
    <Box
      ref={box}
      onKeyDown={onKey}
      sx={{ bgcolor: colours.card, border: `1px solid ${colours.line}`, borderRadius: 1, overflow: "hidden", py: 0.5 }}
    >
      {notes && <HatchPattern />}
      {score.systems.map((system, at) => (
        <Box key={at} sx={{ position: "relative" }}>
          {current != null && (
            <Cursor system={system} index={current} lanes={(showStrings ? BAND_LANE : 0) + (notes ? NEST_LANE : 0)} />
          )}
          <Box
            onClick={(event) => {
              const note = (event.target as Element).closest("[data-note]");
              if (note && onChoose) onChoose(Number(note.getAttribute("data-note")!.slice(5)), note);
            }}
            sx={onChoose ? { "& [data-note]": { cursor: "pointer" } } : undefined}
          >
            <Engraving svg={system.svg} />
          </Box>
          {onChoose ? (
            <FingerLane
              system={system}
              score={score}
              pinned={pinned}
              focus={focus}
              onFocus={setFocus}
              onChoose={onChoose}
            />
          ) : (
            showStrings && <BandLane system={system} score={score} />
          )}
          {notes && (
            <svg
              viewBox={`0 0 ${system.width} ${NEST_LANE}`}
              width="100%"
              style={{ display: "block", position: "relative" }}
              role="group"
              aria-label={`How each note landed, line ${at + 1}`}
            >
              {system.notes.map((placed) => {
                const note = byIndex.get(placed.index);
                if (!note) return null;
                const cx = placed.x * system.width;
                const radius = nestRadius(
                  system.notes.map((n) => n.x * system.width),
                  NEST,
                );
                const words = noteWords(note, score.notes[note.index]?.spoken ?? note.name);
                return (
                  <g
                    key={note.index}
                    data-nest={note.index}
                    data-state={nestShape(note).state}
                    role="button"
                    aria-label={words}
                    tabIndex={note.index === focus ? 0 : -1}
                    style={{ cursor: onPlay ? "pointer" : undefined }}
                    onPointerEnter={() => onPoint?.(note.index)}
                    onPointerLeave={() => onPoint?.(null)}
                    onFocus={() => onPoint?.(note.index)}
                    onBlur={() => onPoint?.(null)}
                    onClick={() => onPlay?.(note.index)}
                  >
                    <rect
                      x={cx - radius * 1.15}
                      y="0"
                      width={radius * 2.3}
                      height={NEST_LANE}
                      rx="4"
                      fill={lit?.has(note.index) ? colours.lanternLight : "transparent"}
                    />
                    <NestGlyph shape={nestShape(note)} cx={cx} cy={NEST_LANE / 2 - 1} radius={radius} />
                  </g>
                );
              })}
              {extras?.map((extra) => (
                <Stray key={extra.onset_s} extra={extra} system={system} />
              ))}
            </svg>
          )}
        </Box>
      ))}
    </Box>
  );
});

const Engraving = memo(function Engraving({ svg }: { svg: string }) {
  // Ids must be unique on a page that shows several scores; the notes keep theirs as data.
  const html = useMemo(() => ({ __html: svg.replace(/ id="(note-\d+)"/g, ' data-note="$1"') }), [svg]);
  return (
    <div className="engraving" aria-hidden="true" style={{ position: "relative" }} dangerouslySetInnerHTML={html} />
  );
});

function Cursor({ system, index, lanes }: { system: System; index: number; lanes: number }) {
  const placed = system.notes.find((note) => note.index === index);
  if (!placed) return null;
  return (
    <Box
      data-cursor={index}
      aria-hidden="true"
      sx={{
        position: "absolute",
        left: `calc(${placed.x * 100}% - 14px)`,
        width: 28,
        top: 0,
        bottom: lanes ? 2 : 0,
        bgcolor: colours.lanternLight,
        borderRadius: 1,
        forcedColorAdjust: "none",
      }}
    />
  );
}

function BandLane({ system, score }: { system: System; score: Score }) {
  const xs = new Map(system.notes.map((note) => [note.index, note.x * system.width]));
  const own = score.notes.filter((note) => xs.has(note.index));
  return (
    <svg
      viewBox={`0 0 ${system.width} ${BAND_LANE}`}
      width="100%"
      style={{ display: "block", position: "relative" }}
      aria-hidden="true"
    >
      {stringBands(own).map((band) => {
        const [from, to] = [xs.get(band.from)! - 7, xs.get(band.to)! + 7];
        return (
          <g key={band.from}>
            <line
              x1={from + 16}
              y1="10"
              x2={Math.max(to, from + 16)}
              y2="10"
              stroke={colours.ring}
              strokeWidth="2"
              strokeLinecap="round"
            />
            <text x={from + 6} y="14.5" textAnchor="middle" fontSize="13" fontWeight="700" fill={colours.quiet}>
              {band.string}
            </text>
          </g>
        );
      })}
      {own.map((note) => (
        <Tape key={note.index} note={note} x={xs.get(note.index)!} />
      ))}
    </svg>
  );
}

/** The tape under a note, in its colour; its name for who points at it. */
function Tape({ note, x }: { note: Score["notes"][number]; x: number }) {
  if (!note.mark) return null;
  return (
    <rect
      x={x - 6}
      y={BAND_LANE - 6}
      width="12"
      height="5"
      rx="1"
      fill={note.mark.shade}
      stroke={colours.edge}
      strokeWidth="0.7"
    >
      <title>
        {note.mark.name} ({note.mark.colour} tape)
      </title>
    </rect>
  );
}

interface FingerLaneProps {
  system: System;
  score: Score;
  pinned: ReadonlySet<number> | undefined;
  focus: number;
  onFocus: (index: number) => void;
  onChoose: (index: number, anchor: Element) => void;
}

/** String and finger of every note, each a thing to press; a pinned one wears a frame. */
function FingerLane({ system, score, pinned, focus, onFocus, onChoose }: FingerLaneProps) {
  const tight = Math.max(...score.notes.map((note) => note.index)) > 40;
  return (
    <svg
      viewBox={`0 0 ${system.width} ${BAND_LANE}`}
      width="100%"
      style={{ display: "block", position: "relative" }}
      role="group"
      aria-label="Strings and fingers"
    >
      {system.notes.map((placed, at) => {
        const note = score.notes[placed.index]!;
        const before = at ? score.notes[placed.index - 1] : undefined;
        const same =
          before && before.string === note.string && before.finger === note.finger && !pinned?.has(note.index);
        const x = placed.x * system.width;
        const words = `${note.string}${note.finger}, ${note.spoken}: ${note.finger === 0 ? "open" : `finger ${note.finger} on`} ${note.string}${pinned?.has(note.index) ? ", pinned" : ""}`;
        return (
          <g
            key={note.index}
            data-finger={note.index}
            role="button"
            aria-label={words}
            tabIndex={note.index === focus ? 0 : -1}
            style={{ cursor: "pointer" }}
            onFocus={() => onFocus(note.index)}
            onClick={(event) => onChoose(note.index, event.currentTarget)}
          >
            <rect
              x={x - (tight ? 8 : 13)}
              y="1"
              width={tight ? 16 : 26}
              height={BAND_LANE - 8}
              rx="4"
              fill={pinned?.has(note.index) ? colours.lanternLight : "transparent"}
              stroke={pinned?.has(note.index) ? colours.lantern : "none"}
            />
            <text x={x} y="15" textAnchor="middle" fontSize="12.5" fontWeight="700" fill={colours.quiet}>
              {same ? "·" : `${note.string}${note.finger}`}
            </text>
            <Tape note={note} x={x} />
          </g>
        );
      })}
    </svg>
  );
}

/** A note with no place in the line: a lone diamond between the nests. */
function Stray({ extra, system }: { extra: Extra; system: System }) {
  const after = system.notes.find((note) => note.index === extra.before);
  if (!after) return null;
  const before = system.notes.find((note) => note.index === extra.before - 1);
  const x = (before ? (before.x + after.x) / 2 : after.x - 0.02) * system.width;
  const y = NEST_LANE / 2;
  return (
    <path d={`M${x} ${y - 5} l4 5 l-4 5 l-4 -5 z`} fill={colours.card} stroke={colours.lantern} strokeWidth="1.6">
      <title>An extra note</title>
    </path>
  );
}
