// What forms check before they send: the API's own schemas of what is typed, cut out of its description.
import { readFileSync, writeFileSync } from "node:fs";

const FORMS = [
  "BillTyped",
  "DeclaredShown",
  "LoggerNamed",
  "MeterAdded",
  "ObservationTyped",
  "SignIn",
  "TrialTyped",
];

const all = JSON.parse(readFileSync("src/api/openapi.json", "utf8")).components.schemas;

/** A schema with those that it refers to in their place. */
function whole(schema) {
  if (Array.isArray(schema)) return schema.map(whole);
  if (schema === null || typeof schema !== "object") return schema;
  if (schema.$ref) return whole(all[schema.$ref.split("/").at(-1)]);
  return Object.fromEntries(Object.entries(schema).map(([key, value]) => [key, whole(value)]));
}

const cut = Object.fromEntries(FORMS.map((name) => [name, whole(all[name])]));
writeFileSync("src/api/forms.json", `${JSON.stringify(cut, null, 2)}\n`);
