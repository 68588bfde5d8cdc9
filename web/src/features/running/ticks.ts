/** Marks of the time axis, on whole hours or days of the installation's clock. */
import { clock, localMinute, shortDay } from "../../components/numbers";
import { must } from "../../components/must";

export interface Mark {
  at: number;
  text: string;
}

const STEPS = [300, 600, 900, 1800, 3600, 7200, 10800, 21600];

export function marks(start: number, stop: number, zone: string, room: number): Mark[] {
  const most = Math.max(2, Math.floor(room / 62));
  const step = STEPS.find((one) => (stop - start) / one <= most);
  const found: Mark[] = [];
  if (step && stop - start <= 3 * 86_400) {
    // By the clock on the wall, which on two days of the year does not go evenly.
    const midnight = start - secondsOfDay(start, zone);
    const stride = Math.min(step, 3600);
    for (let at = midnight; at <= stop; at += stride) {
      if (at >= start - 1 && secondsOfDay(at, zone) % step === 0) found.push({ at, text: clock(at, zone) });
    }
    return found;
  }
  const days = (stop - start) / 86_400;
  const each = Math.max(1, Math.ceil(days / most));
  let at = start - secondsOfDay(start, zone);
  let k = 0;
  while (at <= stop) {
    if (at >= start - 1 && k % each === 0) found.push({ at, text: shortDay(at + 43_200, zone) });
    const next = at + 86_400 + 7200; // past the next midnight, however long the day
    at = next - secondsOfDay(next, zone);
    k += 1;
  }
  return found;
}

function secondsOfDay(instant: number, zone: string): number {
  const [hour, minute] = localMinute(instant, zone).slice(11).split(":").map(Number);
  return must(hour) * 3600 + must(minute) * 60 + (instant % 60);
}
