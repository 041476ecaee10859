// SPDX-License-Identifier: MIT
import { useState } from "preact/hooks";

// The game tells the token where it was started; with it the page may change something.
export function Token({ live, set }) {
  const [text, setText] = useState("");
  return (
    <form
      class="row sheet"
      onSubmit={(e) => {
        e.preventDefault();
        live.setToken(text.trim());
        set(text);
      }}
    >
      <span>Enter the token that the game printed to make changes.</span>
      <input aria-label="Token" value={text} onInput={(e) => setText(e.target.value)} required />
      <button>Use</button>
    </form>
  );
}
