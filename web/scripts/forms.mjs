// What forms check before they send: the API's own schemas of what is typed, cut out of its description.
import { readFileSync, writeFileSync } from "node:fs";

const FORMS = ["BillTyped", "LoggerNamed", "MeterAdded", "ObservationTyped"];

const all = JSON.parse(readFileSync("src/api/openapi.json", "utf8")).components.schemas;
const cut = Object.fromEntries(FORMS.map((name) => [name, all[name]]));
if (JSON.stringify(cut).includes("$ref")) throw new Error("a form's schema refers to another");
writeFileSync("src/api/forms.json", `${JSON.stringify(cut, null, 2)}\n`);
