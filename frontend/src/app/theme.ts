import { createTheme } from "@mui/material/styles";

/** The wooden room at dusk: paper, spruce ink, one lantern. */
export const colours = {
  paper: "#F5EFE3",
  card: "#FFFCF6",
  line: "#DCD1BC",
  edge: "#8C8064",
  ink: "#1D332F",
  quiet: "#56635C",
  spruce: "#24564C",
  lantern: "#A8500F",
  lanternLight: "#F3DDC3",
  moss: "#E3E9DC",
  plum: "#6B5B7B",
  ring: "#BDAF93",
} as const;

const reading = '"Atkinson Hyperlegible Next Variable", "Atkinson Hyperlegible Next", sans-serif';
const heading = '"Literata Variable", Literata, serif';

export const theme = createTheme({
  palette: {
    primary: { main: colours.spruce, contrastText: colours.card },
    secondary: { main: colours.lantern, contrastText: colours.card },
    error: { main: colours.lantern },
    background: { default: colours.paper, paper: colours.card },
    text: { primary: colours.ink, secondary: colours.quiet },
    divider: colours.line,
  },
  shape: { borderRadius: 4 },
  typography: {
    fontFamily: reading,
    fontSize: 15,
    h1: { fontFamily: heading, fontSize: "1.65rem", fontWeight: 600, lineHeight: 1.25 },
    h2: { fontFamily: heading, fontSize: "1.05rem", fontWeight: 600, color: colours.quiet, lineHeight: 1.4 },
    h3: { fontFamily: reading, fontSize: "1rem", fontWeight: 700 },
    button: { textTransform: "none", fontWeight: 500, fontSize: "1rem" },
  },
  transitions: { create: () => "none" },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true },
      styleOverrides: {
        root: {
          borderRadius: 999,
          padding: "7px 20px",
          minHeight: 44,
          "&:focus-visible": { outline: `3px solid ${colours.lantern}`, outlineOffset: 2 },
        },
        outlined: { borderColor: colours.edge, background: colours.card, color: colours.ink },
      },
    },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: { root: { border: `1px solid ${colours.line}`, backgroundImage: "none" } },
    },
    MuiDialog: { styleOverrides: { paper: { borderRadius: 8, padding: 8 } } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { background: colours.card },
        notchedOutline: { borderColor: colours.edge },
      },
    },
    MuiToggleButtonGroup: {
      styleOverrides: { root: { flexWrap: "wrap", gap: 8 } },
    },
    MuiToggleButton: {
      styleOverrides: {
        root: {
          border: `1px solid ${colours.edge} !important`,
          borderRadius: "999px !important",
          margin: "0 !important",
          textTransform: "none",
          color: colours.ink,
          background: colours.card,
          padding: "6px 16px",
          minHeight: 40,
          fontSize: "1rem",
          "&.Mui-selected, &.Mui-selected:hover": { background: colours.spruce, color: colours.card },
          "&:focus-visible": { outline: `3px solid ${colours.lantern}`, outlineOffset: 2 },
        },
      },
    },
    MuiTooltip: {
      styleOverrides: { tooltip: { background: colours.ink, fontSize: "0.9rem" } },
    },
    MuiCssBaseline: {
      styleOverrides: {
        a: { color: colours.spruce },
        body: { background: colours.paper, fontVariantNumeric: "tabular-nums" },
        "a:focus-visible, [tabindex]:focus-visible, summary:focus-visible": {
          outline: `3px solid ${colours.lantern}`,
          outlineOffset: 2,
        },
        "@media print": { body: { background: "white" } },
      },
    },
  },
});
