/** The job rail: beside the screens, narrow where there is little room, below them on a phone. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Drawer from "@mui/material/Drawer";
import List from "@mui/material/List";
import ListItemButton from "@mui/material/ListItemButton";
import { styled } from "@mui/material/styles";
import type { ReactNode } from "react";
import { NavLink } from "react-router";

const ACCENT = "var(--accent)";
const LIGHT = "#fff";

/** What stands at the foot of the rail. */
export const Low = styled(ButtonBase)({
  font: "inherit",
  color: "var(--rail-ink)",
  padding: "2px 0",
  minHeight: 24,
  minWidth: 24,
  justifyContent: "flex-start",
  "&:hover": { color: LIGHT },
});

function Place({ to, children }: { to: string; children: ReactNode }) {
  return (
    <ListItemButton
      component={NavLink}
      to={to}
      sx={{
        font: "inherit",
        color: "var(--rail-ink)",
        padding: { xs: "6px 10px", md: "6px 14px" },
        borderLeft: { xs: 0, sm: "3px solid transparent" },
        justifyContent: "space-between",
        flexGrow: 0,
        "&:hover": { color: LIGHT, background: "none" },
        '&[aria-current="page"]': {
          background: "var(--rail-here)",
          color: LIGHT,
          borderLeftColor: ACCENT,
        },
      }}
    >
      {children}
    </ListItemButton>
  );
}

const Rule = styled("hr")(({ theme }) => ({
  border: 0,
  borderTop: "1px solid var(--rail-line)",
  margin: "12px 14px",
  width: "auto",
  [theme.breakpoints.down("sm")]: { display: "none" },
}));

const LIST = { padding: 0, display: "flex", flexDirection: { xs: "row", sm: "column" } } as const;

export function Rail({ rooms, children }: { rooms: [string, string, boolean][]; children: ReactNode }) {
  return (
    <Drawer
      variant="permanent"
      component="aside"
      aria-label="Job rail"
      sx={{ gridRow: { xs: 2, sm: 1 }, "@media print": { display: "none" } }}
      slotProps={{
        paper: {
          sx: {
            position: "static",
            width: "auto",
            height: "100%",
            border: 0,
            borderRadius: 0,
            background: "var(--rail)",
            color: "var(--rail-ink)",
            padding: { xs: "4px 0", sm: "12px 0" },
            flexDirection: { xs: "row", sm: "column" },
            overflowX: "auto",
          },
        },
      }}
    >
      <Box
        component={NavLink}
        to="/fleet"
        sx={{
          color: "#fbfaf7",
          fontSize: { sm: 12, md: 14 },
          fontWeight: 700,
          lineHeight: 1.1,
          padding: { sm: "0 10px 6px", md: "0 14px 6px" },
          textDecoration: "none",
          display: { xs: "none", sm: "block" },
          "&::after": {
            content: '""',
            display: "block",
            width: 22,
            height: 3,
            background: ACCENT,
            marginTop: 6,
          },
        }}
      >
        Honest Ember
      </Box>
      <Rule />
      <Box component="nav" aria-label="Screens" sx={{ ...LIST, flexShrink: 0 }}>
        <List component="div" disablePadding sx={LIST}>
          <Place to="/fleet">Fleet</Place>
        </List>
        {rooms.length > 0 && <Rule />}
        <List component="div" disablePadding sx={LIST}>
          {rooms.map(([name, to, wanted]) => (
            <Place key={name} to={to}>
              {name}
              {wanted && (
                <Box
                  component="span"
                  role="img"
                  aria-label="wants attention"
                  sx={{
                    width: 7,
                    height: 7,
                    borderRadius: "50%",
                    background: ACCENT,
                    marginLeft: 4,
                    flex: "none",
                  }}
                />
              )}
            </Place>
          ))}
        </List>
      </Box>
      <Box
        sx={{
          marginTop: { sm: "auto" },
          padding: { xs: "0 10px", md: "8px 14px 0" },
          fontSize: 11,
          display: "flex",
          flexDirection: { xs: "row", sm: "column" },
          gap: { xs: 10, sm: 2 },
          alignItems: { xs: "center", sm: "flex-start" },
          whiteSpace: "nowrap",
        }}
      >
        {children}
      </Box>
    </Drawer>
  );
}
