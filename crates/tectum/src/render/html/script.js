"use strict";
(() => {
  const box = document.getElementById("filter");
  const said = document.getElementById("filtered");
  const text = (node) => node.textContent.toLowerCase();
  // What is shown or hidden as one; what a table's group says of all its rows stays with any of them.
  let rows = null;
  let own = null;
  const filter = () => {
    // Looked through when it is asked for: a page may have a hundred thousand of them.
    rows ??= [...document.querySelectorAll("main .row, main tbody tr:not(.of), main li")];
    own ??= rows.map(text);
    const words = box.value.toLowerCase().split(/\s+/).filter(Boolean);
    let found = 0;
    rows.forEach((row, at) => {
      const fits = words.every((word) => own[at].includes(word));
      row.hidden = !fits;
      found += fits ? 1 : 0;
    });
    for (const group of document.querySelectorAll("main tbody")) {
      group.hidden = words.length > 0 && !group.querySelector("tr:not(.of):not([hidden])");
    }
    for (const part of document.querySelectorAll("main .drawn, main .gap, main h3")) {
      part.hidden = words.length > 0;
    }
    for (const section of document.querySelectorAll("main > section")) {
      section.hidden = words.length > 0 &&
        !section.querySelector(".row:not([hidden]), tbody tr:not(.of):not([hidden]), li:not([hidden])");
    }
    for (const all of document.querySelectorAll("details.all")) {
      const has = all.querySelector("tbody tr:not([hidden])") !== null;
      all.hidden = !has;
      if (words.length > 0 && has && !all.open) {
        all.open = true;
        all.dataset.opened = "";
      } else if (words.length === 0 && "opened" in all.dataset) {
        all.open = false;
        delete all.dataset.opened;
      }
    }
    said.value = words.length === 0 ? "" : found === 1 ? "1 line" : `${found} lines`;
  };
  if (box) {
    box.addEventListener("input", filter);
    document.addEventListener("keydown", (event) => {
      if (event.key === "/" && document.activeElement !== box) {
        event.preventDefault();
        box.focus();
      } else if (event.key === "Escape" && document.activeElement === box) {
        box.value = "";
        filter();
      }
    });
  }

  const copy = async (value) => {
    try {
      await navigator.clipboard.writeText(value);
    } catch {
      // A page that is opened as a file may have no clipboard of that kind.
      const field = document.createElement("textarea");
      field.value = value;
      document.body.append(field);
      field.select();
      document.execCommand("copy");
      field.remove();
    }
  };
  document.addEventListener("click", async (event) => {
    const button = event.target.closest("button.copy");
    if (button) {
      await copy(button.dataset.copy);
      button.textContent = "copied";
      button.focus();
      setTimeout(() => { button.textContent = "copy"; }, 1500);
      return;
    }
    const sorter = event.target.closest("th button");
    if (sorter) {
      const head = sorter.parentElement;
      const table = head.closest("table");
      const column = [...head.parentElement.children].indexOf(head);
      const down = head.getAttribute("aria-sort") === "ascending";
      for (const other of head.parentElement.children) { other.removeAttribute("aria-sort"); }
      head.setAttribute("aria-sort", down ? "descending" : "ascending");
      const body = table.tBodies[0];
      const key = (row) => row.children[column]?.dataset.key ?? row.children[column]?.textContent ?? "";
      const order = new Intl.Collator(undefined, { numeric: true }).compare;
      const sorted = [...body.rows].sort((a, b) => order(key(a), key(b)));
      body.append(...(down ? sorted.reverse() : sorted));
    }
  });
})();
