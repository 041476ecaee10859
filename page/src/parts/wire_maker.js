// SPDX-License-Identifier: MIT
// A new wire, picked from what fits.
import { useEffect, useState } from "preact/hooks";

const quoted = (text) => JSON.stringify(text);

// Texts and references are quoted; of what may be left out it is not known which it is, but numbers look like numbers.
function asToml(shape, text) {
  const isText = shape.kind === "text" || shape.kind === "enumeration" || text.startsWith("{");
  const isPlain = /^([-+]?[\d.]+|true|false)$/.test(text);
  return isText || (shape.kind === "optional" && !isPlain) ? quoted(text) : text;
}

function keysOf({ name, when, condition, action, at, given, fitting }) {
  const lines = [name && `name = ${quoted(name)}`, `when = ${quoted(when)}`];
  if (condition.field && condition.value !== "") {
    const shape = fitting.conditions.find((c) => c.name === condition.field).shape;
    const value = asToml(shape, condition.value);
    lines.push(
      `if = { ${quoted(condition.field)} = ${condition.test === "value" ? value : `{ ${condition.test} = ${value} }`} }`,
    );
  }
  const parts = action.parameters
    .filter((p) => given[p.name])
    .map((p) => `${p.name} = ${asToml(p.shape, given[p.name])}`);
  lines.push(
    `do = { action = ${quoted(action.name)}${at ? `, at = ${quoted(at)}` : ""}${parts.length ? `, parameters = { ${parts.join(", ")} }` : ""} }`,
  );
  return lines.filter(Boolean).join("\n") + "\n";
}

export function WireMaker({ live, add, tryText }) {
  const [fitting, setFitting] = useState({ causes: [], conditions: [], actions: [] });
  const [when, setWhen] = useState("");
  const [name, setName] = useState("");
  const [condition, setCondition] = useState({ field: "", test: "value", value: "" });
  const [actionName, setActionName] = useState("");
  const [at, setAt] = useState("");
  const [given, setGiven] = useState({});
  useEffect(() => {
    if (live.token) live.post("/wiring/fits", { when }).then((got) => got.status === 200 && setFitting(got.body));
  }, [when, live.token]);
  const action = fitting.actions.find((a) => a.name === actionName);
  const tests =
    fitting.conditions.find((c) => c.name === condition.field)?.tests.filter((t) => t !== "list" && t !== "between") ??
    [];
  const isReady =
    when && action && (!action.target_kind || at) && action.parameters.every((p) => p.may_be_left_out || given[p.name]);
  const keys = isReady ? keysOf({ name, when, condition, action, at, given, fitting }) : "";
  const pick = (label, value, set, all) => (
    <label class="field">
      <span>{label}</span>
      <select aria-label={label} value={value} onChange={(e) => set(e.target.value)}>
        <option value="" />
        {all.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
    </label>
  );
  return (
    <form
      class="sheet"
      aria-label="New wire"
      style="margin-top:10px"
      onSubmit={(e) => {
        e.preventDefault();
        add(keys);
      }}
    >
      <h2>new wire</h2>
      <label class="field">
        <span>name</span>
        <input aria-label="name" value={name} onInput={(e) => setName(e.target.value)} />
      </label>
      {pick("cause", when, setWhen, fitting.causes)}
      {when &&
        pick(
          "only if",
          condition.field,
          (field) => setCondition({ field, test: "value", value: "" }),
          fitting.conditions.map((c) => c.name),
        )}
      {condition.field && (
        <label class="field">
          <span>is</span>
          <span class="row">
            <select
              aria-label="test"
              value={condition.test}
              onChange={(e) => setCondition({ ...condition, test: e.target.value })}
            >
              {tests.map((t) => (
                <option key={t}>{t}</option>
              ))}
            </select>
            <input
              aria-label="value"
              value={condition.value}
              onInput={(e) => setCondition({ ...condition, value: e.target.value })}
            />
          </span>
        </label>
      )}
      {when &&
        pick(
          "reaction",
          actionName,
          (n) => {
            setActionName(n);
            setGiven({});
            setAt("");
          },
          fitting.actions.map((a) => a.name),
        )}
      {action?.target_kind && pick("at", at, setAt, action.targets)}
      {action?.parameters.map((p) => (
        <label class="field" key={p.name}>
          <span>
            {p.name}
            {p.may_be_left_out && <span class="faint"> (may be left out)</span>}
          </span>
          <input
            aria-label={p.name}
            list={`fits ${p.name}`}
            placeholder={p.shape.words}
            value={given[p.name] ?? ""}
            onInput={(e) => setGiven({ ...given, [p.name]: e.target.value })}
          />
          <datalist id={`fits ${p.name}`}>
            {[...p.shape.values, ...p.fields.map((f) => `{${f}}`), ...p.states.map((s) => `{${s}}`)].map((v) => (
              <option key={v} value={v} />
            ))}
          </datalist>
        </label>
      ))}
      {keys && (
        <pre class="code" style="white-space:pre-wrap">
          {keys}
        </pre>
      )}
      <div class="row">
        <button class="main" disabled={!isReady}>
          Add it to the file
        </button>
        <button type="button" disabled={!isReady} onClick={() => tryText(`[[wire]]\n${keys}`)}>
          Run it once
        </button>
      </div>
    </form>
  );
}
