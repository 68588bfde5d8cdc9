/** A new system: drop whatever there is of it; what it contains, what only a person knows, its COP. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Step from "@mui/material/Step";
import StepLabel from "@mui/material/StepLabel";
import Stepper from "@mui/material/Stepper";
import Typography from "@mui/material/Typography";
import { useRef, useState, type DragEvent } from "react";
import { Link } from "react-router";

import { FileInput } from "../../components/FileInput";
import { HeadOf, Screen } from "../../components/Frame";
import * as look from "../../components/look";
import { TextInput } from "../../components/TextInput";
import { Found } from "./Found";
import { useNew } from "./useNew";
import { HERE, Zone } from "./Zone";

const STEPS = ["What there is of it", "What it contains", "What only you know", "Stored"];

export default function NewSystem() {
  const [zone, setZone] = useState(HERE);
  const made = useNew(zone);
  const at = made.busy.startsWith("Storing") ? 3 : made.found ? 2 : made.busy ? 1 : 0;
  return (
    <>
      <HeadOf below={10}>
        <Box sx={look.line}>
          <Typography variant="h1">New system</Typography>
          <Box component="span" sx={{ ...look.soft, ...look.grow }}>
            from a log to its COP; nothing is stored before you say so
          </Box>
          <Button component={Link} to="/fleet">
            Back to the fleet
          </Button>
        </Box>
      </HeadOf>
      <Screen>
        <Box sx={{ display: "grid", gap: 16, maxWidth: 860 }}>
          <Stepper activeStep={at}>
            {STEPS.map((name) => (
              <Step key={name}>
                <StepLabel>{name}</StepLabel>
              </Step>
            ))}
          </Stepper>
          <Drop take={made.take} zone={zone} setZone={setZone} />
          {made.busy && (
            <div>
              <LinearProgress />
              <p role="status">{made.busy}</p>
            </div>
          )}
          {made.problem && (
            <Alert severity="warning" role="alert">
              {made.problem}
            </Alert>
          )}
          {made.ready && (
            <Alert severity="info" role="note">
              {made.ready.said}{" "}
              <Button variant="contained" disabled={made.busy !== ""} onClick={made.store}>
                {made.ready.name}
              </Button>
            </Alert>
          )}
          {made.brought.length > 0 && (
            <Alert severity="info" role="status">
              Brought in:{" "}
              {made.brought.map((one, k) => (
                <span key={one.id}>
                  {k > 0 && ", "}
                  <Link to={`/systems/${one.id}/running`}>{one.name}</Link>
                </span>
              ))}
              .
            </Alert>
          )}
          {made.found && (
            <Box component="section" aria-label="What the log says" sx={{ display: "grid", gap: 10 }}>
              <Found found={made.found} answers={made.answers} answer={made.answer} />
              <Box
                component="form"
                sx={{ display: "flex", gap: 8, alignItems: "flex-end" }}
                onSubmit={(event) => {
                  event.preventDefault();
                  made.accept();
                }}
              >
                <Typography variant="caption" component="label">
                  Name of the system
                  <br />
                  <TextInput
                    sx={{ width: 260 }}
                    value={made.name}
                    onChange={(event) => made.setName(event.target.value)}
                  />
                </Typography>
                <Button variant="contained" type="submit" disabled={!made.name.trim() || made.busy !== ""}>
                  Begin with it
                </Button>
              </Box>
            </Box>
          )}
          {!made.found && <ByName begin={made.begin} busy={made.busy !== ""} />}
        </Box>
      </Screen>
    </>
  );
}

function Drop({
  take,
  zone,
  setZone,
}: {
  take: (files: File[]) => void;
  zone: string;
  setZone: (zone: string) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const dropped = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    take([...event.dataTransfer.files]);
  };
  return (
    <Box
      component="section"
      aria-label="Drop files"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={dropped}
      sx={{
        border: `1px dashed var(${over ? "--ember" : "--soft"})`,
        background: "var(--sheet)",
        borderRadius: "8px",
        padding: "18px 20px",
        display: "grid",
        gap: 8,
      }}
    >
      <p>
        <strong>Drop what there is of the system here</strong>, or{" "}
        <Button onClick={() => input.current?.click()}>choose files</Button>
      </p>
      <FileInput
        ref={input}
        multiple
        tabIndex={-1}
        aria-label="Log to begin with"
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Box component="ul" sx={{ ...look.soft, margin: 0, paddingLeft: 18 }}>
        <li>a log, or several of one system: CSV, XLSX, ODS, Parquet, Arrow or JSON lines of any logger</li>
        <li>a description as JSON, with its rated table and its logs where there are any</li>
        <li>an archive (ZIP) of one installation or many</li>
      </Box>
      <Box component="label" sx={{ display: "flex", gap: 8, alignItems: "center" }}>
        The logger&apos;s clock keeps the time of <Zone zone={zone} put={setZone} />
      </Box>
    </Box>
  );
}

function ByName({ begin, busy }: { begin: (name: string) => void; busy: boolean }) {
  const [name, setName] = useState("");
  return (
    <Box component="section" aria-label="Without a file" sx={{ display: "grid", gap: 6 }}>
      <Typography variant="h2">Nothing logged yet</Typography>
      <Box
        component="form"
        sx={{ display: "flex", gap: 8, alignItems: "flex-end" }}
        onSubmit={(event) => {
          event.preventDefault();
          begin(name);
        }}
      >
        <Typography variant="caption" component="label">
          Name
          <br />
          <TextInput sx={{ width: 260 }} value={name} onChange={(event) => setName(event.target.value)} />
        </Typography>
        <Button type="submit" disabled={!name.trim() || busy}>
          Describe it
        </Button>
      </Box>
      <Typography variant="caption" component="p">
        Its meters are described in Set up, and readings typed by hand, sent live or imported later.{" "}
        <a href="/api/v1/archive" download>
          All systems as one archive
        </a>
      </Typography>
    </Box>
  );
}
