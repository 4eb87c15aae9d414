import Typography from "@mui/material/Typography";

const MARKS = [3, 5, 10];

/** Got it once? Then three times, five, ten: a counter, and no more than that. */
export function InARow({ count }: { count: number }) {
  if (count === 0) return null;
  const next = MARKS.find((mark) => mark > count);
  return (
    <Typography sx={{ fontSize: "1.15rem" }}>
      {count === 1 ? "One good go." : `${count} good goes in a row.`}
      {next ? ` Can you make it ${next}?` : ""}
    </Typography>
  );
}
