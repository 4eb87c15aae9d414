import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Component, type ErrorInfo, type ReactNode } from "react";

interface Props {
  children: ReactNode;
}

/**
 * What stands in place of a page that could not be drawn: most often one of its parts is gone, because the program was renewed
 * while the page lay open. Recordings are on the device and not in the page.
 */
export class ErrorBoundary extends Component<Props, { error: Error | null }> {
  override state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override componentDidCatch(error: Error, info: ErrorInfo) {
    console.error(error, info.componentStack);
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Box role="alert" sx={{ maxWidth: 560, mx: "auto", mt: 8, px: 2, display: "grid", gap: 2 }}>
        <Typography variant="h1">{isPartGone(error) ? "There is a newer page" : "This page stopped"}</Typography>
        <Typography>
          {isPartGone(error)
            ? "The program was renewed while this page lay open. Load it once more, and all is there again."
            : "Something in it went wrong. Nothing that you recorded or sent is lost. Load it once more."}
        </Typography>
        <Box>
          <Button variant="contained" size="large" onClick={() => window.location.reload()}>
            Load the page again
          </Button>
        </Box>
      </Box>
    );
  }
}

/** Browsers have no common name for it. */
export function isPartGone(error: Error): boolean {
  return /dynamically imported module|importing a module script|module script failed|loading chunk/i.test(
    error.message,
  );
}
