// What is typed: kept until the server has it, judged when its row is left, and never changed behind
// anyone's back. Everything works without this script too; Enter then saves the whole form.
(() => {
  "use strict";

  const rowOf = (control) => control?.closest?.("[data-row]") ?? control?.closest?.(".field") ?? null;
  const isNew = (control) => Boolean(control.closest("[data-new]"));
  const controlsOf = (form) => [...form.elements].filter((c) => c.name && !["submit", "button", "file", "hidden"].includes(c.type));
  const isTick = (control) => control.type === "checkbox" || control.type === "radio";
  const valueOf = (control) => (isTick(control) ? control.checked : control.value);
  const put = (control, value) => { if (isTick(control)) control.checked = value; else if (control.value !== value) control.value = value; };
  // What the server last said.
  const saidOf = (control) => {
    if (isTick(control)) return control.defaultChecked;
    if (!control.options) return control.defaultValue;
    const said = [...control.options].find((o) => o.defaultSelected) ?? control.options[0];
    return said ? said.value : control.value;
  };

  // Each control that was touched and is not with the server yet, by form; a reload loses nothing.
  const drafts = {
    key: (form, of = "") => "draft:" + location.pathname.replace(/[^/]*$/, "") + form.dataset.draft + of,
    read(form, of) { try { return JSON.parse(sessionStorage.getItem(this.key(form, of)) ?? "{}"); } catch { return {}; } },
    write(form, kept, of) {
      try {
        if (Object.keys(kept).length) sessionStorage.setItem(this.key(form, of), JSON.stringify(kept));
        else for (const key of [this.key(form, of), this.key(form, "|units")]) sessionStorage.removeItem(key);
      } catch { /* storage is full or off: the page itself still holds it */ }
    },
    keep(control) {
      const kept = this.read(control.form), units = this.read(control.form, "|units");
      kept[control.name] = valueOf(control);
      this.write(control.form, kept);
      // The unit that stood beside it when it was typed.
      units[control.name] = control.dataset.unit ?? "";
      this.write(control.form, units, "|units");
    },
    // The server took what was sent; what was typed since then stays.
    taken(form, sent) {
      const kept = this.read(form);
      for (const [name, value] of Object.entries(sent)) if (kept[name] === value) delete kept[name];
      this.write(form, kept);
    },
    // A row is gone: what is typed in later rows moves up with them.
    without(form, index) {
      for (const of of ["", "|units"]) {
        const kept = {};
        for (const [name, value] of Object.entries(this.read(form, of))) {
          const [, stem, n] = name.match(/^(.*)_(\d+)$/) ?? [null, name, null];
          if (n === null || Number(n) < index) kept[name] = value;
          else if (Number(n) > index) kept[`${stem}_${Number(n) - 1}`] = value;
        }
        this.write(form, kept, of);
      }
    },
  };

  // A bare figure that was typed beside another unit than stands there now says which it was.
  const withUnit = (value, unit, control) =>
    unit && control.dataset.unit && unit !== control.dataset.unit && /^[-+\d.,/\s]*\d[-+\d.,/\s]*$/.test(value) ? `${value.trim()} ${unit}` : value;

  // After every redraw each control shows what is typed and not yet saved, or what the server says.
  const settle = () => {
    learn();
    for (const form of document.forms) {
      if ("keep" in form.dataset) continue;
      const kept = form.dataset.draft ? drafts.read(form) : {};
      const units = form.dataset.draft ? drafts.read(form, "|units") : {};
      for (const control of controlsOf(form)) {
        if (Object.hasOwn(kept, control.name)) {
          const value = withUnit(kept[control.name], units[control.name], control);
          put(control, value);
          if (value !== kept[control.name]) drafts.keep(control);
        }
        // A field in use that is no draft (the search) is left alone.
        else if (form.dataset.draft || control !== document.activeElement) put(control, saidOf(control));
      }
    }
  };

  const touched = (row) => {
    const control = row?.querySelector("input, select, textarea");
    if (!control?.form?.dataset.draft) return false;
    const kept = drafts.read(control.form);
    return controlsOf(control.form).some((c) => row.contains(c) && Object.hasOwn(kept, c.name));
  };
  const waiting = new Map();
  // Sends a form that saves itself. `row`: judge nothing yet while this row is still being filled.
  const save = (form, row) => {
    if (!form.isConnected || !form.matches("[data-save]")) return;
    const kept = JSON.stringify(drafts.read(form));
    if (kept === "{}") return;
    const sent = waiting.get(form.dataset.draft);
    // The same is on its way already: its answer is judged now, if the row has been left meanwhile.
    if (sent?.text === kept) { if (!row) sent.lake.quiet = null; return; }
    form._quiet = row ?? null;
    form.requestSubmit();
  };

  document.addEventListener("input", ({ target }) => { if (target.form?.dataset.draft && target.name) drafts.keep(target); });
  document.addEventListener("change", ({ target }) => {
    const form = target.form;
    if (!form?.dataset.draft || !target.name || target.type === "file") return;
    if (valueOf(target) !== saidOf(target) || Object.hasOwn(drafts.read(form), target.name)) drafts.keep(target);
    // A row that is there already answers at once; a new one when it is left.
    if (!isNew(target)) save(form, target.closest("[data-row]"));
  });

  // A row is judged when it is left. A click elsewhere is let through first: the page must not be
  // redrawn between the press and the release.
  let pressed = false, left = null;
  const judge = () => {
    const row = left;
    left = null;
    if (!row?.isConnected || row.contains(document.activeElement) || !touched(row)) return;
    const form = row.querySelector("input, select, textarea")?.form;
    if (form && form.dataset.save !== "enter") save(form, null);
  };
  document.addEventListener("pointerdown", () => { pressed = true; }, true);
  for (const end of ["pointerup", "pointercancel"]) {
    document.addEventListener(end, () => { pressed = false; setTimeout(judge, 0); }, true);
  }
  // But a row that is left for another page is sent before that is asked for: its answer would bring this one back.
  document.addEventListener("click", ({ target }) => { if (left && target.closest?.("a[href]")) judge(); }, true);
  document.addEventListener("focusout", (event) => {
    const row = rowOf(event.target);
    if (!row || !event.target.form?.matches?.("[data-save]") || row.contains(event.relatedTarget)) return;
    left = row;
    if (!pressed) setTimeout(judge, 0);
  });

  // Enter saves and goes on: to the next row of a list, to the next field of a form.
  let goOn = null;
  const places = (form) => {
    const list = form.closest("[data-list]") ?? form;
    const rows = [...list.querySelectorAll("[data-row]")];
    return rows.length ? rows : [...form.querySelectorAll(".field")];
  };
  const enter = (place) => place?.querySelector("input:not([disabled], [type=hidden]), select:not([disabled])")?.focus();
  document.addEventListener("keydown", (event) => {
    const { target } = event;
    if (event.key !== "Enter" || event.isComposing || !target.matches?.("input") || !target.form?.matches("[data-save]")) return;
    const form = target.form, row = rowOf(target);
    if (!row) return;
    event.preventDefault();
    const all = places(form), at = all.indexOf(row), byHand = form.dataset.save === "enter";
    if (!touched(row) && !byHand) { enter(all[at + 1]); return; }
    goOn = { form: form.id, next: at + 1 };
    if (byHand) form.requestSubmit();
    else save(form, null);
  });

  // What this window last saw in the fields it changes, and what it sent itself: the server keeps what
  // another window put into other fields, and tells where both changed the same. All of a list is told,
  // since its rows are known by their numbers only.
  const kept = new Map(), own = new Map();
  const asText = (control, value) => (isTick(control) ? (value ? control.value : "") : value);
  // A form that was refused shows what was typed, not what is kept.
  const learn = () => {
    for (const form of document.forms) {
      if (!form.dataset.draft || form.querySelector("[aria-invalid]")) continue;
      kept.set(form.dataset.draft, Object.fromEntries(controlsOf(form).filter((c) => !isNew(c)).map((c) => [c.name, asText(c, saidOf(c))])));
      own.delete(form.dataset.draft);
    }
  };
  const seen = (form, draft) => {
    const was = kept.get(form.dataset.draft) ?? {}, sent = own.get(form.dataset.draft) ?? {};
    const list = Object.keys(was).some((name) => /_\d+$/.test(name));
    const names = Object.keys(was).filter((name) => list || Object.hasOwn(draft, name));
    return JSON.stringify({
      touched: Object.keys(draft),
      was: Object.fromEntries(names.map((name) => [name, [was[name], ...(sent[name] ?? [])]])),
    });
  };
  const remember = (form, draft) => {
    const sent = own.get(form.dataset.draft) ?? {};
    for (const control of controlsOf(form)) {
      if (Object.hasOwn(draft, control.name)) sent[control.name] = [asText(control, draft[control.name]), ...(sent[control.name] ?? [])].slice(0, 4);
    }
    own.set(form.dataset.draft, sent);
  };

  // Another window may have changed something: this one says so, and changes nothing unasked.
  const windows = "BroadcastChannel" in window ? new BroadcastChannel("lake-hour") : null;
  let looking = false;
  const lookElsewhere = async () => {
    const page = document.getElementById("page"), bar = document.getElementById("elsewhere");
    const rig = location.pathname.match(/^\/rigs\/\d+\//)?.[0];
    if (!page?.dataset.now || !bar || !rig || looking || waiting.size) return;
    looking = true;
    try {
      const shown = page.dataset.now, answer = await fetch(rig + "now");
      if (answer.ok && shown === document.getElementById("page")?.dataset.now && shown !== await answer.text()) {
        bar.querySelector("a").href = location.pathname + location.search;
        bar.hidden = false;
      }
    } catch { /* the server is away: whatever is asked next will say so */ }
    looking = false;
  };
  document.addEventListener("visibilitychange", () => { if (!document.hidden) lookElsewhere(); });
  addEventListener("focus", lookElsewhere);
  // A page that Back brings out of the browser's store may be old: it is asked for again.
  addEventListener("pageshow", async (event) => {
    const page = document.getElementById("page"), rig = location.pathname.match(/^\/rigs\/\d+\//)?.[0];
    const came = performance.getEntriesByType("navigation")[0]?.type;
    if (!page?.dataset.now || !rig || !(event.persisted || came === "back_forward")) return;
    const answer = await fetch(rig + "now").catch(() => null);
    if (answer?.ok && await answer.text() !== page.dataset.now) location.reload();
  });
  if (windows) windows.onmessage = lookElsewhere;

  // What a request sent, so that only that is taken off the draft.
  document.addEventListener("htmx:config:request", ({ detail: { ctx } }) => {
    const form = ctx.request.form;
    if (!form?.dataset?.draft || ctx.request.method === "GET") return;
    ctx.lake = { form: form.dataset.draft, sent: drafts.read(form), quiet: form._quiet ?? null };
    ctx.request.body.set?.("seen", seen(form, ctx.lake.sent));
    ctx.request.body.set?.("units", document.getElementById("page")?.dataset.units ?? "");
    remember(form, ctx.lake.sent);
    waiting.set(form.dataset.draft, { text: JSON.stringify(ctx.lake.sent), lake: ctx.lake });
    form._quiet = null;
    const gone = ctx.request.submitter?.name === "take-out" ? Number(ctx.request.submitter.value) : null;
    if (gone !== null) ctx.lake.gone = gone;
  });
  document.addEventListener("htmx:finally:request", ({ detail: { ctx } }) => { if (ctx.lake) waiting.delete(ctx.lake.form); });
  document.addEventListener("htmx:after:request", ({ detail: { ctx } }) => {
    const { lake, response } = ctx;
    if (response?.status === 200 && ctx.request.method === "POST") windows?.postMessage("changed");
    if (!lake || !response) return;
    const form = [...document.forms].find((f) => f.dataset.draft === lake.form) ?? { dataset: { draft: lake.form } };
    // A pasted text is done with when its battery is on the shelf, not when it has been read.
    if (response.status === 200 && lake.form !== "paste") drafts.taken(form, lake.sent);
    if (lake.gone !== undefined && response.status < 500) drafts.without(form, lake.gone);
    if (response.status !== 200) return;
    if (lake.form === "new-battery") document.querySelectorAll("form[data-draft=paste]").forEach((f) => drafts.write(f, {}));
  });

  // A refusal that came while its row is still being filled is not shown yet.
  let was = null, panels = new Set(), opened = new Set();
  // What a hand has unfolded on this page, by where it stands in what has a name. A menu is done with when something was
  // chosen in it; an answer that nobody asked for by hand does not close it either.
  const unfolded = (menus) => new Map([...document.querySelectorAll("details:not(.fold)")].filter((d) => menus || !d.matches(".looks, .why, .log-more, .live-more")).map((d) => {
    const home = d.parentElement.closest("[id], body");
    const alike = [...home.querySelectorAll("details")].filter((other) => other.className === d.className);
    return [`${location.pathname} ${d.id || `${home.id} ${d.className} ${alike.indexOf(d)}`}`, d];
  }));
  const openPanels = () => new Set([...document.querySelectorAll("[id^=panel-], [id^=opened-]")].map((p) => p.id));
  const folds = {
    key: (fold) => "fold:" + fold.id,
    apply() {
      const small = matchMedia("(max-width: 40rem)").matches;
      for (const fold of document.querySelectorAll("details.fold")) {
        const kept = sessionStorage.getItem(this.key(fold));
        fold.open = kept ? kept === "open" : !small || "first" in fold.dataset || Boolean(fold.querySelector("[aria-invalid]"));
      }
    },
  };
  document.addEventListener("click", ({ target }) => {
    const fold = target.closest?.("details.fold > summary")?.parentElement;
    if (fold) sessionStorage.setItem(folds.key(fold), fold.open ? "closed" : "open");
  });
  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx } = event.detail;
    const quiet = ctx.lake?.quiet;
    // What asks by itself for more of a page is not heard when another page has come meanwhile.
    const asks = ctx.sourceElement;
    const whole = (address) => new URL(address, location.href).href;
    if (asks?.matches?.("[data-asks]") && (!asks.isConnected || whole(asks.getAttribute("hx-get")) !== whole(ctx.request.action))) { event.preventDefault(); return; }
    if (ctx.response?.status === 422 && quiet?.isConnected && quiet.contains(document.activeElement)) { event.preventDefault(); return; }
    was = document.activeElement;
    panels = openPanels();
    opened = new Set();
    for (const [name, fold] of unfolded(asks?.matches?.("[data-asks]"))) if (fold.open) opened.add(name);
  });
  document.addEventListener("htmx:after:swap", ({ detail: { ctx } }) => {
    settle();
    folds.apply();
    for (const [name, fold] of unfolded(true)) if (opened.has(name)) fold.open = true;
    for (const id of openPanels()) if (!panels.has(id)) document.getElementById(id).scrollIntoView({ block: "nearest" });
    const bad = ctx.response?.status === 422;
    if (goOn && ctx.request?.method === "POST") {
      const to = goOn;
      goOn = null;
      const form = document.getElementById(to.form);
      const all = form ? places(form) : [];
      const wrong = bad && form?.querySelector("[aria-invalid]");
      if (wrong) wrong.focus();
      else if (form) enter(all[Math.min(to.next, all.length - 1)]);
    }
    // What was added by its button leaves a new row to go on in.
    const added = ctx.response?.status === 200 && ctx.request?.submitter?.closest?.("[data-new]");
    if (added) enter(added.isConnected && added.id === "stretch-0" ? added : document.querySelector(`#${ctx.request.form?.id} [data-new]`));
    if (bad && ctx.lake && !ctx.lake.quiet && document.activeElement === document.body) document.querySelector("[aria-invalid]")?.focus();
    // The focus is never lost: where it was, or what stands there now, or the heading.
    if (document.activeElement === document.body && was && was !== document.body) {
      const same = was.id && document.getElementById(was.id);
      // What is folded away or switched off takes no focus: the next of these does.
      for (const place of [same, document.querySelector("[data-lane-link][aria-expanded=true]"), document.querySelector("h1")].filter(Boolean)) {
        if (place.matches("h1")) place.tabIndex = -1;
        place.focus({ preventScroll: true });
        if (document.activeElement !== document.body) break;
      }
    }
  });

  document.addEventListener("DOMContentLoaded", () => {
    settle();
    folds.apply();
    const kept = [...document.querySelectorAll("form[data-save]")].some((f) => Object.keys(drafts.read(f)).length);
    const notice = document.getElementById("notice");
    if (kept && notice && !notice.textContent.trim()) {
      const p = document.createElement("p");
      p.textContent = "Something typed here is not saved yet: press Enter in its row to save it.";
      notice.append(p);
      notice.classList.remove("notice-empty");
    }
  });
})();
