// A file that is dropped on a page goes into the page's file field, and is looked at; where there is none, it is a recording.

import { address } from "./addresses.js";
import { csrfToken } from "./outbox.js";

const field = /** @type {HTMLInputElement | null} */ (document.querySelector("input[type=file][data-drop]"));
const playing = document.getElementById("tap") !== null; // nothing leads away from a take

/** Bring a recording in, of a drill that is still to be found out, as the page for that would. @param {FileList} files */
export async function bringIn(files) {
  document.body.setAttribute("aria-busy", "true");
  if (!csrfToken()) await fetch(address("recording")); // the page with the form brings it
  const form = Object.assign(document.createElement("form"), { method: "post", enctype: "multipart/form-data", hidden: true });
  form.action = address("recording");
  const token = Object.assign(document.createElement("input"), { name: "csrfmiddlewaretoken", value: csrfToken() });
  form.append(token, Object.assign(document.createElement("input"), { type: "file", name: "file", files }));
  document.body.append(form);
  form.submit();
}

addEventListener("dragover", (event) => {
  if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
});
addEventListener("drop", (event) => {
  const files = event.dataTransfer?.files;
  if (!files?.length) return;
  event.preventDefault();
  if (field) {
    field.files = files;
    field.form?.requestSubmit();
  } else if (!playing) bringIn(files);
});
