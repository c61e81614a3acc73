// What lies over something else or runs out of the page, every fold opened: texts and controls by the boxes they fill,
// but for what stands still while a page is scrolled, and what is reached by scrolling its own frame.
() => {
  document.querySelectorAll("main details, aside details").forEach((fold) => { fold.open = true; });
  const controls = ["INPUT", "SELECT", "BUTTON", "TEXTAREA"];
  const shown = [...document.querySelectorAll("main *, aside *")].filter((e) => {
    if (e.closest("svg, .visually-hidden, .unit, datalist, option, optgroup, script, style") || e.type === "hidden") return false;
    if (!controls.includes(e.tagName) && (e.children.length || !e.textContent.trim())) return false;
    if (["fixed", "sticky"].includes(getComputedStyle(e).position)) return false;
    return e.checkVisibility({ opacityProperty: true, visibilityProperty: true });
  });
  const boxes = shown.flatMap((e) => [...e.getClientRects()].map((box) => ({ e, box })))
    .filter(({ box }) => box.width > 2 && box.height > 2).sort((a, b) => a.box.top - b.box.top);
  const named = ({ e }) => `${e.tagName} ${e.name || ""} ${(e.textContent || e.value || "").trim().replace(/\s+/g, " ").slice(0, 40)}`;
  const found = [];
  boxes.forEach((one, i) => {
    for (let j = i + 1; j < boxes.length && boxes[j].box.top < one.box.bottom - 4; j++) {
      const other = boxes[j];
      if (one.e.contains(other.e) || other.e.contains(one.e)) continue;
      const across = Math.min(one.box.right, other.box.right) - Math.max(one.box.left, other.box.left);
      const down = Math.min(one.box.bottom, other.box.bottom) - Math.max(one.box.top, other.box.top);
      if (across > 4 && down > 5) found.push(`${named(one)} over ${named(other)}`);
    }
  });
  const scrolled = (e) => {
    for (let p = e.parentElement; p && p.tagName !== "MAIN"; p = p.parentElement) {
      if (["auto", "scroll"].includes(getComputedStyle(p).overflowX)) return true;
    }
    return false;
  };
  const edge = document.querySelector("main").getBoundingClientRect().right;
  const out = boxes.filter(({ e, box }) => e.closest("main") && box.right > edge + 2 && !scrolled(e));
  return [...found, ...out.map((one) => `${named(one)} out of the page`)];
}
