// SPDX-License-Identifier: MIT
// What the game can be asked to do: a form for each action.
import { useEffect, useState } from "preact/hooks";
import { emptyValue, resolved, SchemaField } from "../parts/schema_form.js";
import { Token } from "../parts/token.js";

// The actions of an AsyncAPI document: what the program receives.
function actionsOf(document) {
  return Object.values(document.operations ?? {})
    .filter((o) => o.action === "receive")
    .map((operation) => {
      const channel = resolved(operation.channel, document);
      const message = resolved(Object.values(channel.messages ?? {})[0], document);
      return {
        name: channel.title ?? channel.address,
        schema: resolved(message.payload, document),
        target: channel.parameters?.target?.["x-kind"] ?? "",
        is: operation["x-is"],
      };
    })
    .filter((a) => a.name && a.is !== "query");
}

function ActionForm({ action, document, live }) {
  const [value, setValue] = useState(() => emptyValue(action.schema, document) ?? {});
  const [at, setAt] = useState("");
  const [answer, setAnswer] = useState(null);
  const targets = (document["x-targets"] ?? []).filter((t) => !action.target || t.kind === action.target);
  const send = async (event) => {
    event.preventDefault();
    const got = await live.post(`/actions/${action.name}`, { parameters: value, ...(at && { at }) });
    const asChannel = got.status === 404 ? await live.post(`/channels/${action.name}`, value) : got;
    setAnswer(asChannel);
  };
  return (
    <form class="sheet" aria-label={action.name} onSubmit={send}>
      <h2 class="channel">{action.name}</h2>
      {action.target && (
        <label class="field">
          <span>at</span>
          <select aria-label="at" value={at} required onChange={(e) => setAt(e.target.value)}>
            <option value="" />
            {targets.map((t) => (
              <option key={t.name}>{t.name}</option>
            ))}
          </select>
        </label>
      )}
      {Object.entries(action.schema.properties ?? {}).map(([key, schema]) => (
        <SchemaField
          key={key}
          name={key}
          id={`${action.name}.${key}`}
          schema={schema}
          document={document}
          value={value[key]}
          required={(action.schema.required ?? []).includes(key)}
          set={(made) =>
            setValue((v) => {
              const next = { ...v, [key]: made };
              if (made === undefined) delete next[key];
              return next;
            })
          }
        />
      ))}
      <div class="row">
        <button class="main">Do it</button>
        <span role="status">
          {answer &&
            (answer.status === 200
              ? <span class="good">
                  done{answer.body.answer !== undefined && `: ${JSON.stringify(answer.body.answer)}`}
                  {answer.body.served !== undefined && `: ${answer.body.served} served`}
                </span>
              : <span class="wrong">{answer.body.detail}</span>)}
        </span>
      </div>
      {answer?.body.errors?.map((e) => (
        <div key={e.pointer} class="wrong">
          {e.pointer.replace("#/parameters/", "")} {e.detail} <span class="faint">{e.advice}</span>
        </div>
      ))}
    </form>
  );
}

export function Actions({ live, filter }) {
  const [document, setDocument] = useState(null);
  const [failure, setFailure] = useState("");
  const [, redraw] = useState(0);
  useEffect(() => {
    live?.get("/catalogue").then(setDocument, (e) => setFailure(String(e.message)));
  }, []);
  if (!live) return <p class="faint">This is a recording; actions are there while a game runs.</p>;
  if (failure) return <p class="wrong">{failure}</p>;
  if (!document) return <p class="faint">Looking…</p>;
  const all = actionsOf(document).filter((a) => !filter.channel || a.name.includes(filter.channel));
  return (
    <>
      {!live.token && <Token live={live} set={redraw} />}
      {all.length === 0 && <p class="faint">The game accepts none.</p>}
      <div style="display:grid;grid-template-columns:repeat(auto-fill,minmax(310px,1fr));gap:10px;align-items:start">
        {all.map((a) => (
          <ActionForm key={a.name} action={a} document={document} live={live} />
        ))}
      </div>
    </>
  );
}
