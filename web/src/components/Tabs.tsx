/** The views of one screen, by mouse and by arrow keys. */
import Tab from "@mui/material/Tab";
import MuiTabs from "@mui/material/Tabs";

import * as look from "./look";

export function Tabs<View extends string>({
  label,
  views,
  view,
  go,
}: {
  label: string;
  views: readonly (readonly [View, string])[];
  view: View;
  go: (to: View) => void;
}) {
  return (
    <MuiTabs
      value={view}
      onChange={(_, to: View) => go(to)}
      selectionFollowsFocus
      variant="scrollable"
      scrollButtons={false}
      aria-label={label}
      sx={{ ...look.noprint, margin: "-4px 0 8px" }}
    >
      {views.map(([key, name]) => (
        <Tab key={key} value={key} label={name} />
      ))}
    </MuiTabs>
  );
}
