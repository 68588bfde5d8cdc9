import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";

import { KEYS } from "./keys";

export function Help({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="help-title">
      <DialogTitle id="help-title">Keys</DialogTitle>
      <DialogContent>
        <table className="rows dotted" style={{ width: 420 }}>
          <tbody>
            {KEYS.map(([key, what]) => (
              <tr key={key}>
                <td style={{ width: 90 }}>
                  <kbd>{key}</kbd>
                </td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="cap" style={{ marginTop: 10 }}>
          The API behind the screens is described at <a href="/api/v1/docs">/api/docs</a>.
        </p>
        <button className="key" style={{ marginTop: 10 }} onClick={onClose}>
          Close
        </button>
      </DialogContent>
    </Dialog>
  );
}
