import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link, NavLink, Outlet } from "react-router";

import { Mark } from "../ui/Mark";
import { ShortcutHelp } from "../ui/ShortcutHelp";
import { type Person, signOut, useSessionChange } from "./session";
import { useSender } from "../recording/useSender";
import { useNewerPage } from "./installed";
import { colours } from "./theme";

const PLACES = [
  ["/week", "This week"],
  ["/listening", "Listening"],
  ["/class", "The class"],
  ["/sheets", "Sheets"],
  ["/workshop", "Workshop"],
  ["/lesson", "Lesson"],
  ["/people", "People"],
  ["/calendar", "Calendar"],
  ["/studio", "Studio"],
] as const;

/** The page was made better in the meantime; it is changed when nobody is in the middle of something. */
function NewerPage() {
  const [there, load] = useNewerPage();
  return there ? (
    <Button size="small" variant="outlined" onClick={load}>
      Load the new version
    </Button>
  ) : null;
}

const OWN_PLACES = [
  ["/today", "Today"],
  ["/record", "My record"],
  ["/home", "For the adult"],
] as const;

function Places({ places }: { places: readonly (readonly [string, string])[] }) {
  return (
    <Box
      component="nav"
      aria-label="Places"
      sx={{
        display: "flex",
        gap: { xs: 2, sm: 2.5 },
        // On a phone they are drawn along sideways.
        overflowX: { xs: "auto", sm: "visible" },
        flexWrap: { xs: "nowrap", sm: "wrap" },
        whiteSpace: "nowrap",
        flexGrow: 1,
        order: { xs: 3, sm: 0 },
        width: { xs: "100%", sm: "auto" },
      }}
    >
      {places.map(([to, name]) => (
        <Box
          key={to}
          component={NavLink}
          to={to}
          sx={{
            color: colours.quiet,
            textDecoration: "none",
            py: 1.6,
            borderBottom: "3px solid transparent",
            "&:hover": { color: colours.ink },
            "&.active": { color: colours.ink, fontWeight: 700, borderBottomColor: colours.lantern },
          }}
        >
          {name}
        </Box>
      ))}
    </Box>
  );
}

function SkipLink() {
  return (
    <Box
      component="a"
      href="#main"
      sx={{
        position: "absolute",
        left: -9999,
        "&:focus": { left: 16, top: 12, zIndex: 2, background: colours.card, p: 1 },
      }}
    >
      Skip to the page
    </Box>
  );
}

/** The teacher's room: calm and dense, made for a keyboard and a laptop. */
export function TeacherRoom({ person }: { person: Person }) {
  const leave = useSessionChange(signOut);
  useSender(person.id);
  return (
    <>
      <SkipLink />
      <ShortcutHelp />
      <Box
        component="header"
        className="no-print"
        sx={{
          display: "flex",
          flexWrap: "wrap",
          alignItems: "center",
          columnGap: 3,
          borderBottom: `1px solid ${colours.line}`,
          px: { xs: 2, md: 3 },
          minHeight: 46,
        }}
      >
        <Box
          component={Link}
          to="/week"
          aria-label="Attentive Owl"
          sx={{ display: "flex", alignItems: "center", gap: 1, textDecoration: "none", color: "inherit" }}
        >
          <Mark />
          <Typography
            component="span"
            sx={{
              fontFamily: "h1.fontFamily",
              fontWeight: 600,
              fontSize: "1.15rem",
              display: { xs: "none", sm: "block" },
            }}
          >
            Attentive Owl
          </Typography>
        </Box>
        <Places places={PLACES} />
        <Typography sx={{ color: "text.secondary", fontSize: "0.95rem", display: { xs: "none", md: "block" } }}>
          {person.studio}
        </Typography>
        <NewerPage />
        <Button size="small" onClick={() => leave.mutate(undefined)} sx={{ color: colours.quiet, px: 1.5, ml: "auto" }}>
          Sign out
        </Button>
      </Box>
      <Box component="main" id="main" tabIndex={-1} sx={{ px: { xs: 2, md: 3 }, py: 2.5, outline: "none" }}>
        <Outlet />
      </Box>
    </>
  );
}

/** The pupil's room: large and slow, one thing at a time. */
export function PupilRoom({ person }: { person: Person }) {
  const leave = useSessionChange(signOut);
  useSender(person.id);
  return (
    <>
      <SkipLink />
      <Box
        component="header"
        sx={{
          display: "flex",
          flexWrap: "wrap",
          alignItems: "center",
          columnGap: 2.5,
          borderBottom: `1px solid ${colours.line}`,
          px: { xs: 2, sm: 3 },
          minHeight: 52,
        }}
      >
        <Box component={Link} to="/today" aria-label="Today" sx={{ display: "flex", p: 1.75, ml: -1.75 }}>
          <Mark />
        </Box>
        <Typography sx={{ fontWeight: 700, fontSize: "1.1rem" }}>{person.name}</Typography>
        <Places places={OWN_PLACES} />
        <NewerPage />
        <Button size="small" onClick={() => leave.mutate(undefined)} sx={{ color: colours.quiet, ml: "auto" }}>
          Sign out
        </Button>
      </Box>
      <Box
        component="main"
        id="main"
        tabIndex={-1}
        sx={{
          px: { xs: 2, sm: 4 },
          py: 3,
          maxWidth: 1120,
          mx: "auto",
          outline: "none",
          "& .MuiToggleButton-root, & .MuiFormControlLabel-root": { minHeight: 46 },
        }}
      >
        <Outlet />
      </Box>
    </>
  );
}
