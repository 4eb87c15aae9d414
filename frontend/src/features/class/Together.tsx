import Box from "@mui/material/Box";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { answer, api } from "../../api/client";
import { OntoSheet } from "../../ui/OntoSheet";
import { Empty, Loading, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";

/** What the class gets wrong together, turned by one press into a warm-up. */
export function Together({ query }: { query: { class_id?: string } }) {
  const say = useSay();
  const together = useQuery({
    queryKey: ["together", query],
    queryFn: () => answer(api.GET("/api/together", { params: { query } })),
  });
  if (together.isPending) return <Loading what="Laying the takes over one another" />;
  if (together.isError) return <Trouble error={together.error} again={() => void together.refetch()} />;
  const { shared, of } = together.data;
  if (shared.length === 0)
    return (
      <Empty title="Nothing that two of them share.">
        <Typography>
          {of === 0
            ? "Nobody was heard in the last two weeks."
            : "In the last two weeks no fault was heard of more than one pupil. What one pupil does stands on their own page."}
        </Typography>
      </Empty>
    );
  return (
    <>
      <Typography sx={{ color: "text.secondary", mb: 1.5 }}>
        Of the last two weeks; {of} {of === 1 ? "pupil was" : "pupils were"} heard.
      </Typography>
      <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {shared.map((own) => (
          <Box
            component="li"
            key={`${own.title} ${own.heard_in}`}
            sx={{
              borderTop: 1,
              borderColor: "divider",
              "&:first-of-type": { borderTop: 0 },
              p: 2,
              display: "grid",
              gap: { xs: 1, md: 2 },
              gridTemplateColumns: { xs: "1fr", md: "1fr auto" },
              alignItems: "center",
            }}
          >
            <div>
              <Typography sx={{ fontWeight: 700 }}>
                {say(own.title)}{" "}
                <Box component="span" sx={{ fontWeight: 400, color: "text.secondary" }}>
                  {own.pupils.length} of {of}
                </Box>
              </Typography>
              <Typography sx={{ color: "text.secondary" }}>
                {own.pupils.join(", ")} · in {say(own.heard_in)}
              </Typography>
            </div>
            {own.warm_up ? (
              <Box sx={{ textAlign: { md: "right" } }}>
                <Typography sx={{ fontSize: "0.95rem", mb: 0.5 }}>{say(own.warm_up_title)}</Typography>
                <OntoSheet
                  body={{ recipe: own.warm_up, class_ids: query.class_id ? [query.class_id] : [] }}
                  words="Make it a warm-up for all"
                  label={`Make a warm-up for all of: ${own.title}`}
                />
              </Box>
            ) : (
              <Typography sx={{ color: "text.secondary" }}>No matter of practice: see to the strings.</Typography>
            )}
          </Box>
        ))}
      </Paper>
    </>
  );
}
