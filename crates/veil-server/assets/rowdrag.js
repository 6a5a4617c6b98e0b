// Rows dragged between others, or into slots, which open by name while a row is dragged.

import { el, takes } from "./parts.js";

// `braid` tells the rows in their order and their height, and draws them anew.
export function rowDrag(shot, panel, braid) {
  // The row that is being dragged, and what it needs.
  let dragging = null;

  // The slots that a dragged row could go into: those of rows that it does not need itself.
  function openSlots(row) {
    if (!dragging || row.id === dragging.id || dragging.needs.has(row.id)) return [];
    const mine = shot.row(dragging.id);
    return row.slots.filter((slot) => slot.from !== dragging.id && takes(slot, mine.gives));
  }

  // A row that is dragged goes between others, or into a slot of one.
  function grab(row, event) {
    if (event.button || row.knot === "final" || event.target.closest("button,input")) return;
    const start = [event.clientX, event.clientY];
    const ghost = el("div", { class: "dragghost" }, row.name);
    let target = null;
    const over = (next) => document.elementsFromPoint(next.clientX, next.clientY);
    const move = (next) => {
      if (!dragging && Math.hypot(next.clientX - start[0], next.clientY - start[1]) < 6) return;
      if (!dragging) {
        dragging = { id: row.id, needs: neededBy(row.id) };
        document.body.append(ghost);
        braid.redraw();
      }
      ghost.style.transform = `translate(${next.clientX + 10}px, ${next.clientY + 8}px)`;
      const slot = over(next).find((node) => node.classList?.contains("dropslot") || node.classList?.contains("droppable"));
      for (const one of panel.querySelectorAll(".over")) one.classList.remove("over");
      slot?.classList.add("over");
      const bounds = panel.getBoundingClientRect();
      const at = Math.round((next.clientY - bounds.top + panel.scrollTop) / braid.height());
      target = slot ? { stage: Number(slot.dataset.stage), slot: slot.dataset.slot } : { before: Math.min(Math.max(at, 0), braid.rows().length - 1) };
      place.style.display = slot ? "none" : "";
      place.style.top = `${target.before * braid.height() - 1}px`;
      if (next.clientY < bounds.top + 20) panel.scrollTop -= 8;
      if (next.clientY > bounds.bottom - 20) panel.scrollTop += 8;
    };
    const place = el("div", { class: "dropline", "aria-hidden": true });
    const end = (dropped) => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      window.removeEventListener("keydown", escape, true);
      ghost.remove();
      place.remove();
      const was = dragging;
      dragging = null;
      if (!was) return;
      // The click that ends a drag selects nothing.
      const swallow = (click) => click.stopPropagation();
      panel.addEventListener("click", swallow, { capture: true });
      setTimeout(() => {
        panel.removeEventListener("click", swallow, { capture: true });
        braid.redraw();
      });
      if (dropped) drop(row, target);
    };
    const up = () => end(true);
    const escape = (key) => {
      if (key.key !== "Escape") return;
      key.stopPropagation();
      end(false);
    };
    panel.append(place);
    place.style.display = "none";
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    window.addEventListener("keydown", escape, true);
  }

  function drop(row, target) {
    if (!target) return undefined;
    if (target.slot) return shot.edit({ do: "link", stage: target.stage, slot: target.slot, from: { stage: row.id } });
    const stages = shot.state.setup.stages;
    const from = stages.findIndex((stage) => stage.id === row.id);
    const before = stages.findIndex((stage) => stage.id === braid.rows()[target.before].id);
    const to = before > from ? before - 1 : before;
    return to === from ? undefined : shot.edit({ do: "move", stage: row.id, to });
  }

  // Every row that a row needs.
  function neededBy(id) {
    const needed = new Set();
    const visit = (one) => {
      for (const link of Object.values(shot.stage(one)?.links ?? {})) {
        const from = link.from?.stage;
        if (from === undefined || needed.has(from)) continue;
        needed.add(from);
        visit(from);
      }
    };
    visit(id);
    return needed;
  }

  return { grab, openSlots, dragged: () => dragging?.id };
}
