"use strict";
(() => {
  const tip = document.getElementById("tip");
  const show = (text, x, y) => {
    tip.textContent = text;
    tip.hidden = false;
    const left = Math.min(x + 14, document.documentElement.scrollWidth - tip.offsetWidth - 8);
    tip.style.left = Math.max(8, left) + "px";
    tip.style.top = y + 16 + "px";
  };
  const hide = () => { tip.hidden = true; };

  // What has a key is picked together: in every figure and table of the section.
  const pick = (from) => {
    const section = from.closest("section");
    const key = from.dataset.key;
    const again = from.classList.contains("picked");
    for (const own of section.querySelectorAll(".picked")) own.classList.remove("picked");
    if (!key || again) return;
    for (const own of section.querySelectorAll("[data-key]")) own.classList.toggle("picked", own.dataset.key === key);
  };

  for (const spot of document.querySelectorAll(".spot")) {
    const title = spot.querySelector("title");
    const text = title.textContent;
    title.remove();
    spot.setAttribute("aria-label", text);
    spot.setAttribute("tabindex", "0");
    spot.addEventListener("pointermove", (event) => show(text, event.pageX, event.pageY));
    spot.addEventListener("pointerleave", hide);
    spot.addEventListener("focus", () => {
      const box = spot.getBoundingClientRect();
      show(text, box.left + window.scrollX, box.bottom + window.scrollY - 10);
    });
    spot.addEventListener("blur", hide);
    spot.addEventListener("click", () => pick(spot));
    spot.addEventListener("keydown", (event) => { if (event.key === "Enter") pick(spot); });
  }
  for (const row of document.querySelectorAll("tbody tr[data-key]")) row.addEventListener("click", () => pick(row));

  const value = (row, column) => {
    const cell = row.cells[column];
    return "sort" in cell.dataset ? Number(cell.dataset.sort) : cell.textContent.trim();
  };
  const order = (a, b) =>
    typeof a === "number" && typeof b === "number" ? a - b : String(a).localeCompare(String(b), "en", { numeric: true });
  for (const table of document.querySelectorAll("table")) {
    const heads = [...table.tHead.rows[0].cells];
    heads.forEach((head, column) => {
      const button = document.createElement("button");
      button.type = "button";
      button.append(...head.childNodes);
      head.append(button);
      button.addEventListener("click", () => {
        const down = head.getAttribute("aria-sort") !== "descending";
        for (const other of heads) other.removeAttribute("aria-sort");
        head.setAttribute("aria-sort", down ? "descending" : "ascending");
        const rows = [...table.tBodies[0].rows];
        rows.sort((a, b) => (down ? -1 : 1) * order(value(a, column), value(b, column)));
        table.tBodies[0].append(...rows);
      });
    });
  }
})();
