import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { LineTable } from "../components/Sheets";
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";

import { KEYS } from "./keys";

export function Help({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="help-title">
      <DialogTitle id="help-title">Keys</DialogTitle>
      <DialogContent>
        <LineTable dotted sx={{ width: 420 }}>
          <TableBody>
            {KEYS.map(([key, what]) => (
              <TableRow key={key}>
                <TableCell sx={{ width: 90 }}>
                  <kbd>{key}</kbd>
                </TableCell>
                <TableCell>{what}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </LineTable>
        <Typography variant="caption" component="p" sx={{ marginTop: 10 }}>
          The API behind the screens is described at <a href="/api/v1/docs">/api/docs</a>.
        </Typography>
        <Button sx={{ marginTop: 10 }} onClick={onClose}>
          Close
        </Button>
      </DialogContent>
    </Dialog>
  );
}
