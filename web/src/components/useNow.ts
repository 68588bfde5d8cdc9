/** The time by this browser [s], renewed each minute. */
import { useEffect, useState } from "react";

export function useNow(): number {
  const [now, setNow] = useState(() => Date.now() / 1000);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now() / 1000), 60_000);
    return () => clearInterval(timer);
  }, []);
  return now;
}
