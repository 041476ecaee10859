// SPDX-License-Identifier: MIT
// A form for a JSON Schema, as catalogues have them; empty fields are left out where they may be.
export function resolved(schema, document) {
  if (!schema?.$ref) return schema ?? {};
  return (
    schema.$ref
      .slice(2)
      .split("/")
      .reduce((at, key) => at?.[key.replaceAll("~1", "/").replaceAll("~0", "~")], document) ?? {}
  );
}

function typeOf(schema) {
  const types = [schema.type].flat().filter((t) => t && t !== "null");
  return schema.enum ? "enum" : (types[0] ?? (schema.anyOf || schema.oneOf ? "either" : "text"));
}

// What is said when nothing has been typed.
export function emptyValue(given, document) {
  const schema = resolved(given, document);
  const type = typeOf(schema);
  if (type === "object")
    return Object.fromEntries(
      (schema.required ?? []).map((key) => [key, emptyValue(schema.properties[key], document)]),
    );
  return (
    {
      enum: schema.enum?.[0],
      integer: Math.max(0, schema.minimum ?? 0),
      number: 0,
      boolean: false,
      array: [],
      string: "",
    }[type] ?? null
  );
}

export function SchemaField({ name, schema: given, document, value, set, required, id }) {
  const schema = resolved(given, document);
  const either = schema.anyOf ?? schema.oneOf;
  if (either) {
    return (
      <SchemaField
        name={name}
        id={id}
        document={document}
        value={value}
        set={set}
        required={false}
        schema={either.find((s) => resolved(s, document).type !== "null")}
      />
    );
  }
  const type = typeOf(schema);
  const hint = [
    schema.minimum !== undefined && Math.abs(schema.minimum) < 1e9 && `${schema.minimum} to ${schema.maximum}`,
    schema.title,
    schema.description,
  ].filter(Boolean)[0];
  const change = (made) => set(made === "" || made === undefined ? undefined : made);
  if (type === "object") {
    return (
      <fieldset style="border:1px solid var(--edge);border-radius:4px;margin:4px 0">
        <legend>{name}</legend>
        {Object.entries(schema.properties ?? {}).map(([key, inner]) => (
          <SchemaField
            key={key}
            name={key}
            id={`${id}.${key}`}
            schema={inner}
            document={document}
            value={value?.[key]}
            required={(schema.required ?? []).includes(key)}
            set={(made) => {
              const next = { ...value, [key]: made };
              if (made === undefined) delete next[key];
              set(next);
            }}
          />
        ))}
      </fieldset>
    );
  }
  return (
    <label class="field" for={id}>
      <span>
        {name}
        {!required && <span class="faint"> (may be left out)</span>}
      </span>
      {type === "enum"
        ? <select id={id} value={value ?? ""} onChange={(e) => change(e.target.value)}>
            {!required && <option value="" />}
            {schema.enum.map((v) => (
              <option key={v}>{v}</option>
            ))}
          </select>
        : type === "boolean"
          ? <input
              id={id}
              type="checkbox"
              checked={Boolean(value)}
              onChange={(e) => set(e.target.checked)}
              style="justify-self:start"
            />
          : type === "integer" || type === "number"
            ? <input
                id={id}
                type="number"
                step={type === "integer" ? 1 : "any"}
                min={schema.minimum}
                max={schema.maximum}
                placeholder={hint}
                required={required}
                value={value ?? ""}
                onInput={(e) => change(e.target.value === "" ? undefined : Number(e.target.value))}
              />
            : type === "array"
              ? <input
                  id={id}
                  placeholder="[1, 2]"
                  value={value === undefined ? "" : typeof value === "string" ? value : JSON.stringify(value)}
                  onInput={(e) => {
                    try {
                      change(e.target.value === "" ? undefined : JSON.parse(e.target.value));
                    } catch {
                      change(e.target.value);
                    }
                  }}
                />
              : <input
                  id={id}
                  placeholder={hint}
                  value={value ?? ""}
                  onInput={(e) => (required ? set(e.target.value) : change(e.target.value))}
                />}
    </label>
  );
}
