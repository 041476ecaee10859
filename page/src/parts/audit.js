// SPDX-License-Identifier: MIT
// What the audit says; of a live game, again and again.
import { useEffect, useState } from "preact/hooks";

const every = 3000; // milliseconds

// {found, failure}: `found` is null until there is an answer.
export function useAudit(live, findings) {
  const [found, setFound] = useState(null);
  const [failure, setFailure] = useState("");
  useEffect(() => {
    const look = () =>
      findings().then(
        (all) => {
          setFound(all);
          setFailure("");
        },
        (e) => setFailure(String(e.message)),
      );
    look();
    if (!live) return undefined;
    const timer = setInterval(look, every);
    return () => clearInterval(timer);
  }, []);
  return { found, failure };
}

export const shortCode = (code) => code.replace("courier.audit.", "");
