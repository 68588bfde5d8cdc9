/** How each state is shown: colour and letter. */
export const STATES: Record<string, { letter: string; tone: string; ink?: string }> = {
  heating: { letter: "H", tone: "heating", ink: "#26221d" },
  "hot water": { letter: "HW", tone: "hot-water", ink: "#ffffff" },
  defrost: { letter: "D", tone: "defrost", ink: "#26221d" },
  "start-up": { letter: "↑", tone: "start-up", ink: "#26221d" },
  standby: { letter: "S", tone: "standby", ink: "#26221d" },
  "pump overrun": { letter: "P", tone: "overrun", ink: "#26221d" },
  "backup only": { letter: "B", tone: "backup", ink: "#ffffff" },
  cooling: { letter: "C", tone: "cooling", ink: "#ffffff" },
  off: { letter: "", tone: "off" },
  "running, mode not known": { letter: "R", tone: "running", ink: "#26221d" },
  unknown: { letter: "?", tone: "ground" },
};
