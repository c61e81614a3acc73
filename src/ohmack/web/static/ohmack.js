// Small helpers on top of links and forms: keys, theme, drag, and keeping what is being typed over a swap.
(function () {
  "use strict";
  const frame = () => document.getElementById("frame");
  const typing = (el) => el && (el.matches("input:not([type=checkbox]), textarea, select") || el.isContentEditable);

  function theme() {
    const root = document.documentElement;
    root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
    try { localStorage.setItem("ohmack-theme", root.dataset.theme); } catch (_) { /* storage may be off */ }
  }
  function keys() { const list = document.getElementById("keys"); if (!list.open) list.showModal(); }
  function go(address, push) {
    htmx.ajax("GET", address, { target: "#frame", swap: "outerHTML show:none" });
    if (push) history.pushState({ htmx: true }, "", address);
  }
  const DO = { theme, keys, print: () => window.print() };

  document.addEventListener("click", (event) => {
    const doer = event.target.closest("[data-do]");
    if (doer) { DO[doer.dataset.do](); return; }
    const thing = event.target.closest("svg a[href]");
    if (thing && !event.ctrlKey && !event.metaKey && !event.shiftKey) {
      event.preventDefault();
      if (!thing.dataset.dragged) go(thing.getAttribute("href"), true);
      delete thing.dataset.dragged;
    }
  });

  document.addEventListener("keydown", (event) => {
    const moved = event.target.closest && event.target.closest("[data-move]");
    const arrow = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down" }[event.key];
    if (moved && arrow) { event.preventDefault(); move(moved, { nudge: arrow }); return; }
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || document.querySelector("dialog[open]")) return;
    const job = frame() && frame().dataset.job;
    if (event.key === "?") { keys(); return; }
    if (event.key === "t") { theme(); return; }
    if (event.key === "/") { const box = document.getElementById("search"); if (box) { event.preventDefault(); box.focus(); box.select(); return; } }
    if (!job) return;
    if (event.key === "u" || event.key === "r") {
      const button = document.querySelector(`[data-do-key="${event.key}"]:not([disabled])`);
      if (button) button.click();
    } else if (event.key === "j") { go(job, true); }
    else if ("12345678".includes(event.key)) { go(`${job}/${["survey", "plan", "loads", "signal", "supply", "build", "prove", "handover"][event.key - 1]}`, true); }
  });

  // What is sent without a form carries the token of one that is on the page.
  const token = () => { const field = document.querySelector("input[name=form_token]"); return field ? field.value : ""; };
  document.addEventListener("htmx:configRequest", (event) => { if (event.detail.verb !== "get" && !event.detail.parameters.form_token) event.detail.headers["X-Form-Token"] = token(); });
  document.addEventListener("change", (event) => {
    const shown = event.target.dataset && event.target.dataset.shows && document.getElementById(event.target.dataset.shows);
    if (shown) shown.type = event.target.checked ? "text" : "password";
  });

  // How a voltage is stated, chosen before it is typed, waits for it: by itself it says nothing, and would be lost.
  document.addEventListener("change", (event) => {
    const unsaid = event.target.matches("select.stated") && !event.target.querySelector("option[selected]");
    const value = unsaid && event.target.form && event.target.form.querySelector("input[name=value]");
    if (value && value.value === value.defaultValue) event.stopPropagation();
  }, true);

  // Where something was dropped goes to the server in the picture's own coordinates; it knows the car.
  function move(el, what) {
    const f = frame();
    const values = { version: f.dataset.version, base: f.dataset.base, stage: f.dataset.stage, path: el.dataset.thing, show: el.closest("a") ? el.dataset.thing : "", ...what };
    refocus = el.id ? `#${el.id}` : `[data-thing="${el.dataset.thing}"]`;
    htmx.ajax("POST", `${f.dataset.job}/move`, { target: "#frame", swap: "outerHTML show:none", values });
  }
  function showStage() { // the narrow track scrolls sideways
    const here = document.querySelector(".track li.here"), list = here && here.parentElement;
    if (list && list.scrollWidth > list.clientWidth) list.scrollLeft = here.offsetLeft - list.clientWidth / 3;
  }
  document.addEventListener("DOMContentLoaded", showStage);
  let refocus = "", drag = null;
  document.addEventListener("pointerdown", (event) => {
    const el = event.target.closest("[data-move]");
    if (!el || event.button) return;
    drag = { el, x: event.clientX, y: event.clientY, on: false };
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const dx = event.clientX - drag.x, dy = event.clientY - drag.y;
    if (!drag.on && Math.hypot(dx, dy) < 5) return;
    drag.on = true;
    const scale = drag.el.ownerSVGElement.getScreenCTM().a;
    drag.el.setAttribute("transform", `translate(${dx / scale} ${dy / scale})`);
    document.documentElement.classList.add("dragging");
  });
  document.addEventListener("pointerup", (event) => {
    if (!drag) return;
    const { el, on } = drag;
    drag = null;
    document.documentElement.classList.remove("dragging");
    if (!on) return;
    const svg = el.ownerSVGElement, point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    el.dataset.dragged = "yes";
    move(el, { at: `${point.x.toFixed(1)},${point.y.toFixed(1)}` });
  });

  // A lead on the bench: drawn from terminal to terminal, or Enter on one and then on the other; the form lays it.
  let from = null, rubber = null;
  function lay(a, b) {
    const form = document.getElementById(`lay-${a.ownerSVGElement.dataset.bench}`);
    if (!form || a === b || a.ownerSVGElement !== b.ownerSVGElement) return;
    form.elements.a.value = a.dataset.terminal;
    form.elements.b.value = b.dataset.terminal;
    form.requestSubmit();
  }
  function pick(el) {
    if (from) from.setAttribute("aria-pressed", "false");
    from = el;
    if (el) el.setAttribute("aria-pressed", "true");
  }
  function middle(el) { const b = el.getBBox(); return { x: b.x + b.width / 2, y: b.y + b.height / 2 }; }
  function inside(svg, event) { return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()); }
  document.addEventListener("pointerdown", (event) => {
    const el = event.target.closest("[data-terminal]");
    if (!el || event.button) return;
    if (el.hasPointerCapture(event.pointerId)) el.releasePointerCapture(event.pointerId);
    const at = middle(el), line = document.createElementNS("http://www.w3.org/2000/svg", "line");
    line.setAttribute("class", "rubber");
    for (const [end, value] of [["x1", at.x], ["x2", at.x], ["y1", at.y], ["y2", at.y]]) line.setAttribute(end, value);
    el.ownerSVGElement.append(line);
    rubber = { el, line };
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!rubber) return;
    const at = inside(rubber.el.ownerSVGElement, event);
    rubber.line.setAttribute("x2", at.x);
    rubber.line.setAttribute("y2", at.y);
  });
  document.addEventListener("pointerup", (event) => {
    if (!rubber) return;
    const { el, line } = rubber, over = document.elementFromPoint(event.clientX, event.clientY), to = over && over.closest("[data-terminal]");
    line.remove();
    rubber = null;
    if (!to) return;
    if (to !== el) { pick(null); lay(el, to); } else press(el);  // a tap picks it, or ends what was picked
  });
  document.addEventListener("pointercancel", () => { if (rubber) { rubber.line.remove(); rubber = null; } });
  function press(el) {
    if (from && from !== el && from.isConnected) { const a = from; pick(null); lay(a, el); } else pick(from === el ? null : el);
  }
  document.addEventListener("keydown", (event) => {
    const el = event.target.closest && event.target.closest("[data-terminal]");
    if (!el || (event.key !== "Enter" && event.key !== " ")) return;
    event.preventDefault();
    press(el);
  });

  // A level with a gain behind it: drawn up or down, or moved by arrow keys; the server turns the knob.
  let pull = null;
  function raise(el, what) {
    const f = frame(), values = { version: f.dataset.version, base: f.dataset.base, stage: f.dataset.stage, show: new URLSearchParams(location.search).get("show") || "", thing: el.dataset.gain, ...what };
    refocus = `#${el.id}`;
    htmx.ajax("POST", `${f.dataset.job}/raise`, { target: "#frame", swap: "outerHTML show:none", values });
  }
  document.addEventListener("pointerdown", (event) => {
    const el = event.target.closest("[data-gain]");
    if (!el || event.button) return;
    pull = { el, y: inside(el.ownerSVGElement, event).y, dy: 0 };
    event.preventDefault();
    el.focus({ preventScroll: true });
  });
  document.addEventListener("pointermove", (event) => {
    if (!pull) return;
    pull.dy = inside(pull.el.ownerSVGElement, event).y - pull.y;
    pull.el.setAttribute("transform", `translate(0 ${pull.dy})`);
  });
  document.addEventListener("pointerup", () => {
    if (!pull) return;
    const { el, dy } = pull;
    pull = null;
    if (Math.abs(dy) > 2) raise(el, { rise: (-dy * el.dataset.db).toFixed(2) }); else el.removeAttribute("transform");
  });
  document.addEventListener("pointercancel", () => { if (pull) { pull.el.removeAttribute("transform"); pull = null; } });
  document.addEventListener("keydown", (event) => {
    const el = event.target.closest && event.target.closest("[data-gain]"), nudge = { ArrowUp: "up", ArrowDown: "down" }[event.key];
    if (!el || !nudge) return;
    event.preventDefault();
    raise(el, { nudge });
  });

  // A curve is read where the pointer is, or with the arrow keys.
  function read(chart, to) {
    const data = chart.querySelector("[data-hz]"), box = data.querySelector(".reader");
    const hz = data.dataset.hz.split(",").map(Number), lines = data.dataset.values.split(";").map((l) => l.split(",").map(Number));
    const left = +box.getAttribute("x"), width = +box.getAttribute("width"), top = +box.getAttribute("y"), tall = +box.getAttribute("height");
    const span = Math.log(hz[hz.length - 1] / hz[0]), x = (n) => left + width * Math.log(hz[n] / hz[0]) / span;
    let n = chart.reads ?? Math.floor(hz.length / 2);
    if (typeof to === "object") { n = 0; hz.forEach((_, k) => { if (Math.abs(x(k) - to.x) < Math.abs(x(n) - to.x)) n = k; }); } else n = Math.max(0, Math.min(hz.length - 1, n + to));
    chart.reads = n;
    const names = data.dataset.names.split(";"), said = lines.map((l, k) => Number.isNaN(l[n]) ? "" : `${lines.length > 1 && names[k] ? names[k] + " " : ""}${l[n].toPrecision(3)} ${data.dataset.unit}`).filter(Boolean);
    data.querySelector(".cursor").setAttribute("d", `M${x(n)} ${top}v${tall}`);
    data.querySelector(".readout").textContent = `${Math.round(hz[n])} Hz: ${said.length > 2 ? said.map((s) => s.replace(/^.* (?=[-0-9])/, "")).join(", ") : said.join(", ")}`;
  }
  document.addEventListener("pointermove", (event) => {
    const chart = !drag && !rubber && event.target.closest && event.target.closest(".chart");
    if (chart && chart.querySelector("[data-hz]")) read(chart, inside(chart.ownerSVGElement, event));
  });
  document.addEventListener("keydown", (event) => {
    const chart = event.target.classList && event.target.classList.contains("chart") && event.target;
    if (!chart || (event.key !== "ArrowLeft" && event.key !== "ArrowRight")) return;
    event.preventDefault();
    read(chart, event.key === "ArrowLeft" ? -1 : 1);
  });
  document.addEventListener("dragstart", (event) => { if (event.target.closest("svg")) event.preventDefault(); });

  // A swap must not eat what was typed or chosen in another form, nor close what was opened, nor lose the focus.
  let kept = [], focused = null, opened = [], settled = null;
  function changed(el) {
    if (el.type === "hidden" || el.type === "file") return false;
    if (el.type === "checkbox" || el.type === "radio") return el.checked !== el.defaultChecked;
    if (el.tagName !== "SELECT") return el.value !== el.defaultValue;
    const given = [...el.options].findIndex((o) => o.defaultSelected);
    return el.selectedIndex !== (given < 0 ? 0 : given);
  }
  document.addEventListener("htmx:beforeSwap", (event) => {
    const sent = event.detail.requestConfig.elt, el = document.activeElement;
    kept = [...document.querySelectorAll("#frame input[id], #frame select[id], #frame textarea[id]")]
      .filter((f) => changed(f) && f.form !== sent && !sent.contains(f)).map((f) => ({ id: f.id, value: f.value, checked: f.checked }));
    focused = el && el.id && el !== document.body ? { el, id: el.id, at: el.selectionStart, typing: typing(el) && !sent.contains(el) } : null;
    opened = [...document.querySelectorAll("details[open][id]")].map((d) => d.id);
  });
  document.addEventListener("htmx:afterSwap", () => {  // at once: what is typed from here on goes into the new field
    for (const { id, value, checked } of kept) {
      const el = document.getElementById(id);
      if (!el) continue;
      if (el.type === "checkbox" || el.type === "radio") el.checked = checked;
      else el.value = value;
    }
    kept = [];
    const el = focused && !focused.el.isConnected ? document.getElementById(focused.id) : null;
    if (el && focused.typing) { el.focus({ preventScroll: true }); try { el.setSelectionRange(focused.at, focused.at); } catch (_) { /* no text field */ } }
  });
  // What opens, opens where the eye is, with the cursor in it.
  function bring(el, inside) {
    const box = el.getBoundingClientRect();
    if (box.top < 0 || box.top > window.innerHeight * 0.7) el.scrollIntoView({ block: "start" });
    const first = inside && [...el.querySelectorAll(inside)].find((f) => f.type !== "hidden" && f.offsetParent);
    if (first) { first.focus({ preventScroll: true }); first.scrollIntoView({ block: "nearest" }); }
  }
  const FIELDS = "input, select, textarea, button";
  const entryOf = (editor) => editor.dataset.asked ? `#${editor.dataset.asked}` : ".entries input, .entries select, .fact-value input, .fact-value select, textarea";
  document.addEventListener("htmx:afterSettle", (event) => {
    opened.forEach((id) => { const d = document.getElementById(id); if (d) d.open = true; });
    const config = event.detail.requestConfig, whole = frame() && frame() !== settled;  // an answer beside the frame moves nothing
    settled = frame();
    const lost = document.activeElement === document.body || !document.activeElement;
    if (refocus) {
      const el = document.querySelector(refocus);
      if (el) el.focus();
    } else if (lost && focused && document.getElementById(focused.id)) {
      document.getElementById(focused.id).focus({ preventScroll: true });
    }
    const stayed = refocus || (focused && focused.typing);
    refocus = ""; focused = null;
    showStage();
    if (!whole) return;
    document.getElementById("trouble").replaceChildren();
    const invalid = document.querySelector("[aria-invalid=true]"), conflict = document.getElementById("conflict");
    const editor = document.getElementById("editor"), report = document.querySelector(".report");
    if (report && config.verb === "post") report.scrollIntoView({ block: "start" });
    if (conflict) bring(conflict, ".btn-main");
    else if (invalid) { invalid.focus(); invalid.scrollIntoView({ block: "nearest" }); }
    else if (editor && editor.dataset.added) { editor.removeAttribute("data-added"); bring(editor, FIELDS); const name = editor.querySelector("[id$=-name]"); if (name) { name.focus(); name.select(); } }
    else if (editor && !stayed && config.verb === "get") bring(editor, entryOf(editor));
  });
  document.addEventListener("DOMContentLoaded", () => {
    settled = frame();
    const editor = document.getElementById("editor");
    if (editor && location.search.includes("show=")) bring(editor, entryOf(editor));
  });
  // A reading taken without a connection stays on the phone and is sent when the connection is back.
  const UNSENT = "ohmack-unsent";
  const unsent = () => { try { return JSON.parse(localStorage.getItem(UNSENT) || "[]").filter((r) => r.pairs); } catch (_) { return []; } };
  function remember(list) { try { localStorage.setItem(UNSENT, JSON.stringify(list)); } catch (_) { /* storage may be off */ } showUnsent(); }
  function showUnsent() {
    const list = unsent(), place = document.getElementById("trouble");
    if (list.length) place.textContent = `${list.length === 1 ? "1 reading" : list.length + " readings"} kept on this device (${list.map((r) => r.name).join(", ")}); sent when Ohmack answers again.`;
  }
  let sending = false;
  const TRIES = 2; // what was sent twice and never answered may be what stops the server: a person decides then
  async function sendUnsent() {
    if (sending) return;
    sending = true;
    try {
      for (let list = unsent(); list.length; list = unsent()) {
        const { job, where, back, name, pairs, tries = 0 } = list[0];
        if (tries >= TRIES) { ask(list[0]); break; }
        const fresh = await fetch(back, { headers: { "HX-Request": "true" } });
        if (!fresh.ok) break;
        const page = await fresh.text(), version = page.match(/data-version="(\d+)"/)[1], made = page.match(/name="form_token" value="(\w+)"/);
        const body = new URLSearchParams([...pairs.filter(([k]) => !["version", "base", "form_token"].includes(k)), ["version", version], ["base", "0"], ["form_token", made ? made[1] : token()]]);
        remember(unsent().map((r, n) => (n ? r : { ...r, tries: tries + 1 })));
        const answer = await fetch(where, { method: "POST", headers: { "HX-Request": "true" }, body, signal: AbortSignal.timeout(20000) });
        if (answer.status === 409) { remember(unsent().map((r, n) => (n ? r : { ...r, tries }))); break; } // somebody was quicker: once more
        if (answer.status === 503) { remember(unsent().map((r, n) => (n ? r : { ...r, tries }))); break; } // the database is away, the server is not
        if (answer.status >= 500 || answer.status === 401) break; // signed out: it stays here until somebody signs in
        remember(unsent().slice(1));
        if (answer.status !== 200) {
          const typed = (pairs.find(([k]) => k === "outcome" || k === "value") || ["", ""])[1];
          document.getElementById("trouble").textContent = `${name}: “${typed}” could not be read. Enter it again.`;
          break;
        }
        if (!unsent().length) { document.getElementById("trouble").replaceChildren(); if (frame().dataset.job === job) go(back, false); }
      }
    } catch (_) { /* still away */ } finally { sending = false; }
  }
  function ask(reading) {
    const place = document.getElementById("trouble");
    if (place.querySelector("[data-do=resend]")) return;
    place.textContent = `${reading.name}: sent ${TRIES} times and not answered. It is kept on this device. `;
    for (const [act, words] of [["resend", "Send it again"], ["forget", "Forget it"]]) {
      const button = document.createElement("button");
      button.type = "button"; button.className = "btn"; button.dataset.do = act; button.textContent = words;
      place.append(button, " ");
    }
  }
  DO.resend = () => { remember(unsent().map((r, n) => (n ? r : { ...r, tries: 0 }))); sendUnsent(); };
  DO.forget = () => { remember(unsent().slice(1)); if (!unsent().length) document.getElementById("trouble").replaceChildren(); };
  window.addEventListener("online", sendUnsent);
  setInterval(() => { if (unsent().length) sendUnsent(); }, 4000);
  document.addEventListener("DOMContentLoaded", () => { showUnsent(); sendUnsent(); });

  // The page brings tests on other wires along, to go on with until the connection is back.
  function goOn(form) {
    const shown = form.closest("[data-one]"), queue = document.getElementById("next-queue");
    if (!shown || !queue) return;
    const next = queue.content.querySelector("[data-one]");
    if (!next) { shown.innerHTML = "<h2>The next one is chosen when Ohmack answers</h2>"; return; }
    shown.replaceWith(next);
    htmx.process(next);
    const field = next.querySelector("[data-first]"); if (field) field.focus();
  }

  document.addEventListener("htmx:sendError", (event) => {
    const form = event.detail.elt.closest && event.detail.elt.closest("form[data-keep]");
    if (form) {
      const event_ = event.detail.requestConfig.triggeringEvent, pressed = event_ && event_.submitter;
      const kept = { job: frame().dataset.job, where: form.getAttribute("action"), back: location.pathname, name: form.dataset.keep, pairs: [...new FormData(form, pressed).entries()] };
      remember([...unsent().filter((r) => r.name !== kept.name || r.job !== kept.job), kept]);
      goOn(form);
      return;
    }
    document.getElementById("trouble").textContent = "No answer from Ohmack. Is it still running? What you typed is still here; change the field again to retry.";
  });
  window.addEventListener("popstate", () => location.reload());

  // A signature: the lines of the pen, in thousandths of the field's width, go into a hidden field; a name alone is enough.
  const STEP = 5, MOST = 2800;
  function signPads() {
    document.querySelectorAll("[data-sign]:not([data-ready])").forEach((pad) => {
      const svg = pad.querySelector("svg"), path = svg.querySelector("path"), field = pad.parentElement.querySelector("[name=drawn]");
      const lines = field.value.split(";").map((line) => (line.match(/\d+,\d+/g) || []).map((p) => p.split(",").map(Number))).filter((line) => line.length);
      pad.dataset.ready = "yes";
      pad.hidden = false;
      const count = () => lines.reduce((sum, line) => sum + line.length, 0);
      const show = () => {
        path.setAttribute("d", lines.map((line) => `M${line.concat(line.length > 1 ? [] : line).map((p) => p.join(" ")).join("L")}`).join(""));
        field.value = lines.map((line) => line.map((p) => p.join(",")).join(" ")).join(";");
      };
      const at = (event) => {
        const box = svg.getBoundingClientRect(), scale = 1000 / box.width;
        return [event.clientX - box.left, event.clientY - box.top].map((v, n) => Math.round(Math.min(Math.max(v * scale, 0), n ? 300 : 1000)));
      };
      svg.addEventListener("pointerdown", (event) => { svg.setPointerCapture(event.pointerId); lines.push([at(event)]); show(); event.preventDefault(); });
      svg.addEventListener("pointermove", (event) => {
        if (!svg.hasPointerCapture(event.pointerId)) return;
        const line = lines[lines.length - 1], point = at(event), last = line[line.length - 1];
        if (Math.hypot(point[0] - last[0], point[1] - last[1]) >= STEP && count() < MOST) { line.push(point); show(); }
      });
      if (lines.length) show(); // the hand of a signature that was refused
      pad.querySelector("[data-sign-clear]").addEventListener("click", () => { lines.length = 0; show(); });
    });
  }
  document.addEventListener("DOMContentLoaded", signPads);
  document.addEventListener("htmx:afterSettle", signPads);
  document.addEventListener("focusin", (event) => { if (event.target.matches("[data-select]")) event.target.select(); });
})();
