// A file that is dropped anywhere on the page goes into the page's file field, and is looked at.

const field = document.querySelector("input[type=file][data-drop]");

if (field instanceof HTMLInputElement) {
  addEventListener("dragover", (event) => {
    if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
  });
  addEventListener("drop", (event) => {
    const files = event.dataTransfer?.files;
    if (!files?.length) return;
    event.preventDefault();
    field.files = files;
    field.form?.requestSubmit();
  });
}
