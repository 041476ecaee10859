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

const noCondition = { field: "", test: "value", value: "" };
const noReaction = { name: "", at: "", given: {} };

function conditionsOf(conditions, fitting) {
  const said = conditions
    .filter((c) => c.field && c.value !== "")
    .map((c) => {
      const value = asToml(fitting.conditions.find((f) => f.name === c.field).shape, c.value);
      return `${quoted(c.field)} = ${c.test === "value" ? value : `{ ${c.test} = ${value} }`}`;
    });
  return said.length > 0 && `if = { ${said.join(", ")} }`;
}

function reactionOf(reaction, action) {
  const parts = action.parameters
    .filter((p) => reaction.given[p.name])
    .map((p) => `${p.name} = ${asToml(p.shape, reaction.given[p.name])}`);
  return `{ action = ${quoted(action.name)}${reaction.at ? `, at = ${quoted(reaction.at)}` : ""}${parts.length ? `, parameters = { ${parts.join(", ")} }` : ""} }`;
}

const isComplete = (reaction, action) =>
  action &&
  (!action.target_kind || reaction.at) &&
  action.parameters.every((p) => p.may_be_left_out || reaction.given[p.name]);

function keysOf({ wire, fitting, actionOf }) {
  const done = wire.reactions.filter((r) => r.name).map((r) => reactionOf(r, actionOf(r)));
  return `${[
    wire.name && `name = ${quoted(wire.name)}`,
    `when = ${quoted(wire.when)}`,
    conditionsOf(wire.conditions, fitting),
    wire.times && `times = ${wire.times}`,
    wire.after && `after = ${quoted(wire.after)}`,
    `do = ${done.length === 1 ? done[0] : `[\n  ${done.join(",\n  ")},\n]`}`,
  ]
    .filter(Boolean)
    .join("\n")}\n`;
}

function Pick({ label, value, set, all }) {
  return (
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
}

function Condition({ at, is, set, fitting }) {
  const one = fitting.conditions.find((c) => c.name === is.field);
  const tests = one?.tests.filter((t) => t !== "list" && t !== "between") ?? [];
  const number = at === 0 ? "" : ` ${at + 1}`;
  return (
    <>
      <Pick
        label={at === 0 ? "only if" : `and if${number}`}
        value={is.field}
        set={(field) => set({ ...noCondition, field })}
        all={fitting.conditions.map((c) => c.name)}
      />
      {is.field && (
        <label class="field">
          <span>is</span>
          <span class="row">
            <select aria-label={`test${number}`} value={is.test} onChange={(e) => set({ ...is, test: e.target.value })}>
              {tests.map((t) => (
                <option key={t}>{t}</option>
              ))}
            </select>
            <input
              aria-label={`value${number}`}
              value={is.value}
              placeholder={one.shape.words}
              list={`values ${at}`}
              onInput={(e) => set({ ...is, value: e.target.value })}
            />
            <datalist id={`values ${at}`}>
              {one.shape.values.map((v) => (
                <option key={v} value={v} />
              ))}
            </datalist>
          </span>
        </label>
      )}
    </>
  );
}

function Reaction({ at, is, set, action, fitting }) {
  const number = at === 0 ? "" : ` ${at + 1}`;
  return (
    <>
      <Pick
        label={at === 0 ? "reaction" : `then${number}`}
        value={is.name}
        set={(name) => set({ ...noReaction, name })}
        all={fitting.actions.map((a) => a.name)}
      />
      {action?.target_kind && (
        <Pick label={`at${number}`} value={is.at} set={(to) => set({ ...is, at: to })} all={action.targets} />
      )}
      {action?.parameters.map((p) => (
        <label class="field" key={p.name}>
          <span>
            {p.name}
            {p.may_be_left_out && <span class="faint"> (may be left out)</span>}
          </span>
          <input
            aria-label={`${p.name}${number}`}
            list={`fits ${p.name}${number}`}
            placeholder={p.shape.words}
            value={is.given[p.name] ?? ""}
            onInput={(e) => set({ ...is, given: { ...is.given, [p.name]: e.target.value } })}
          />
          <datalist id={`fits ${p.name}${number}`}>
            {[...p.shape.values, ...p.fields.map((f) => `{${f}}`), ...p.states.map((s) => `{${s}}`)].map((v) => (
              <option key={v} value={v} />
            ))}
          </datalist>
        </label>
      ))}
    </>
  );
}

// What has been said, and room for one more once the last is said.
const withRoom = (all, isSaid, none) => (isSaid(all[all.length - 1]) ? [...all, none] : all);
const replaced = (all, at, one) => all.map((was, i) => (i === at ? one : was));

export function WireMaker({ live, add, tryText }) {
  const [fitting, setFitting] = useState({ causes: [], conditions: [], actions: [] });
  const [wire, setWire] = useState({
    name: "",
    when: "",
    conditions: [noCondition],
    times: "",
    after: "",
    reactions: [noReaction],
  });
  const say = (part) => setWire({ ...wire, ...part });
  const { when } = wire;
  useEffect(() => {
    if (live.token) live.post("/wiring/fits", { when }).then((got) => got.status === 200 && setFitting(got.body));
  }, [when, live.token]);
  const actionOf = (reaction) => fitting.actions.find((a) => a.name === reaction.name);
  const said = wire.reactions.filter((r) => r.name);
  const isReady = when && said.length > 0 && said.every((r) => isComplete(r, actionOf(r)));
  const keys = isReady ? keysOf({ wire, fitting, actionOf }) : "";
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
        <input aria-label="name" value={wire.name} onInput={(e) => say({ name: e.target.value })} />
      </label>
      <Pick
        label="cause"
        value={when}
        set={(cause) => say({ when: cause, conditions: [noCondition], reactions: [noReaction] })}
        all={fitting.causes}
      />
      {when &&
        withRoom(wire.conditions, (c) => c.field && c.value !== "", noCondition).map((c, i, all) => (
          <Condition key={i} at={i} is={c} fitting={fitting} set={(to) => say({ conditions: replaced(all, i, to) })} />
        ))}
      {when &&
        withRoom(wire.reactions, (r) => r.name && isComplete(r, actionOf(r)), noReaction).map((r, i, all) => (
          <Reaction
            key={i}
            at={i}
            is={r}
            action={actionOf(r)}
            fitting={fitting}
            set={(to) => say({ reactions: replaced(all, i, to) })}
          />
        ))}
      {when && (
        <label class="field">
          <span>at most, and after</span>
          <span class="row">
            <input
              aria-label="times"
              type="number"
              min="1"
              placeholder="any number of times"
              value={wire.times}
              onInput={(e) => say({ times: e.target.value })}
            />
            <input
              aria-label="after"
              placeholder="at once, or 500 ms"
              value={wire.after}
              onInput={(e) => say({ after: e.target.value })}
            />
          </span>
        </label>
      )}
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
