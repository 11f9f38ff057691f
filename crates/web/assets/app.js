// Lake Hour's own script: keys, themes, and keeping what was typed. Everything else works without.
(() => {
  "use strict";

  // What was typed into a form is kept here until the server has it, so that a reload, a closed
  // tab or a refused value loses nothing.
  const drafts = {
    key: (form) => "draft:" + location.pathname + ":" + form.dataset.draft,
    keep(form) {
      const typed = Object.fromEntries(new FormData(form));
      try { sessionStorage.setItem(this.key(form), JSON.stringify(typed)); } catch { /* storage is full or off: the page itself still holds it */ }
    },
    drop(form) { sessionStorage.removeItem(this.key(form)); },
    fill(form) {
      const kept = sessionStorage.getItem(this.key(form));
      if (!kept) return;
      for (const [name, value] of Object.entries(JSON.parse(kept))) {
        const field = form.elements.namedItem(name);
        if (field && "value" in field) field.value = value;
      }
    },
    fillAll() { document.querySelectorAll("form[data-draft]").forEach((form) => this.fill(form)); },
  };

  document.addEventListener("input", (event) => {
    const form = event.target.closest("form[data-draft]");
    if (form) drafts.keep(form);
  });

  const done = (event) => {
    const ctx = event.detail?.ctx ?? {};
    const form = ctx.sourceElement?.closest?.("form[data-draft]");
    if (form && ctx.response?.status === 200 && ctx.request?.method !== "GET") {
      drafts.drop(form);
      // The row for something new is emptied once it has been taken; a field in use keeps its text
      // through a swap, so it is done here.
      if (form.classList.contains("stretch-new")) {
        form.reset();
        form.querySelector("input")?.focus();
      }
    }
  };

  // A select that was used keeps its choice through a swap: bring it to what the server says.
  const settleSelects = () => {
    for (const select of document.querySelectorAll("select")) {
      const said = select.querySelector("option[selected]");
      if (said && select !== document.activeElement && select.value !== said.value) select.value = said.value;
    }
  };

  document.addEventListener("htmx:after:request", done);
  document.addEventListener("htmx:after:swap", () => { settleSelects(); });
  document.addEventListener("DOMContentLoaded", () => drafts.fillAll());

  const lanes = () => [...document.querySelectorAll("[data-lane]")];
  const laneNow = () => document.activeElement?.closest?.("[data-lane]");
  const step = (by) => {
    const all = lanes();
    if (!all.length) return;
    const at = all.indexOf(laneNow());
    const next = at < 0 ? (by > 0 ? 0 : all.length - 1) : Math.min(Math.max(at + by, 0), all.length - 1);
    all[next].querySelector("[data-lane-link]").focus();
    all[next].scrollIntoView({ block: "nearest" });
  };
  const press = (selector, within = document) => within?.querySelector(selector)?.click();

  const keys = {
    j: () => step(1),
    k: () => step(-1),
    e: () => press("[data-lane-edit]", laneNow()),
    p: () => press("[data-lane-pin]", laneNow()),
    d: () => press("[data-key=day]"),
    n: () => press("[data-key=new]"),
    u: () => press("[data-key=undo]"),
    U: () => press("[data-key=redo]"),
    "?": () => document.getElementById("keys").showModal(),
    Escape: () => press("[data-key=close]"),
  };

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    const typing = event.target.closest?.("input, select, textarea");
    if (typing && event.key !== "Escape") return;
    if (/^[1-7]$/.test(event.key)) { press(`[data-tab="${event.key}"]`); return; }
    const act = Object.hasOwn(keys, event.key) ? keys[event.key] : null;
    if (act) { event.preventDefault(); act(); }
  });

  document.addEventListener("alpine:init", () => {
    window.Alpine.data("shell", () => ({
      showKeys() { document.getElementById("keys").showModal(); },
      setTheme(key) {
        document.documentElement.dataset.theme = key;
        document.cookie = `theme=${key}; Path=/; Max-Age=31536000; SameSite=Strict`;
        for (const button of document.querySelectorAll("[data-theme-choice]")) {
          button.setAttribute("aria-pressed", String(button.dataset.themeChoice === key));
        }
      },
    }));
  });
})();
