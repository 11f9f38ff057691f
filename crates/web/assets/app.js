// Lake Hour's own script: keys, themes, pictures that follow the pointer, files. Everything else works
// without it; what is typed is in forms.js.
(() => {
  "use strict";

  // Alpine looks at every global there is when it starts; of these the browser warns that they will go.
  for (const name of ["fence", "Fence", "FencedFrameConfig", "HTMLFencedFrameElement"]) delete window[name];

  // Sends one thing to the server and lets its answer redraw the page, as a form would.
  const send = (address, values) => window.htmx.ajax("POST", address, { source: "#page", target: "#page", swap: "outerMorph", values });
  const here = (path) => {
    const page = document.querySelector("[data-drag]") ? "day" : "rig";
    const query = new URLSearchParams(location.search);
    query.set("page", page);
    return location.pathname.replace(/\/[a-z]+$/, "/" + path) + "?" + query;
  };

  // A picture that follows the pointer: `move` and `end` get the event and what `start` returned.
  const drag = (selector, start, move, end) => {
    document.addEventListener("pointerdown", (event) => {
      const what = event.target.closest?.(selector);
      if (!what || event.button !== 0) return;
      const from = { what, x: event.clientX, y: event.clientY, moved: false, ...start(what, event) };
      const onMove = (e) => {
        if (!from.moved && Math.hypot(e.clientX - from.x, e.clientY - from.y) < 4) return;
        from.moved = true;
        e.preventDefault();
        move(e, from);
      };
      const stop = (e) => {
        document.removeEventListener("pointermove", onMove);
        document.removeEventListener("pointerup", stop);
        document.removeEventListener("pointercancel", stop);
        if (!from.moved) return;
        // The click that ends a drag opens nothing.
        addEventListener("click", (c) => { c.preventDefault(); c.stopPropagation(); }, { capture: true, once: true });
        setTimeout(() => dispatchEvent(new Event("lake:drag-done")), 0);
        if (e.type === "pointerup") end(e, from);
      };
      document.addEventListener("pointermove", onMove, { passive: false });
      document.addEventListener("pointerup", stop);
      document.addEventListener("pointercancel", stop);
    });
  };
  document.addEventListener("dragstart", (event) => { if (event.target.closest?.(".timeline, .sketch, .curve")) event.preventDefault(); });

  // A stretch's edge: the day is redrawn while it moves, and kept when it is let go.
  let asking = false, wanted = null;
  const preview = async (id, minutes) => {
    wanted = [id, minutes];
    if (asking) return;
    asking = true;
    while (wanted) {
      const [i, m] = wanted;
      wanted = null;
      const query = new URLSearchParams(location.search);
      query.set("drag", `${i}:${m}`);
      const began = performance.now();
      await window.htmx.ajax("GET", `${location.pathname}?${query}`, { target: "#day-live", swap: "outerMorph" });
      (window.lakeDrags ??= []).push(performance.now() - began);
    }
    asking = false;
  };
  const minutesAt = (from, event) => {
    const shift = (event.clientX - from.x) / from.perMinute;
    return Math.min(Math.max(Math.round((from.minutes + shift) / 5) * 5, 5), 10080);
  };
  drag("[data-edge]", (what) => {
    const id = what.dataset.edge;
    const block = document.getElementById(`block-${id}`);
    const minutes = Number(block.dataset.minutes);
    return { id, minutes, perMinute: block.querySelector(".block-field").getBoundingClientRect().width / minutes };
  }, (event, from) => preview(from.id, minutesAt(from, event)), (event, from) => {
    wanted = null;
    send(here(`stretches/${from.id}/minutes`), { minutes: minutesAt(from, event) });
  });
  // A whole block: put where it is let go.
  drag("[data-block]", (what) => ({ id: what.dataset.block }), (event, from) => {
    document.getElementById(`block-${from.id}`)?.setAttribute("transform", `translate(${event.clientX - from.x} 0)`);
  }, (event, from) => {
    const blocks = [...document.querySelectorAll("[data-block]")].filter((b) => b.dataset.block !== from.id);
    const place = blocks.filter((b) => {
      const box = b.querySelector(".block-field").getBoundingClientRect();
      return box.left + box.width / 2 < event.clientX;
    }).length;
    document.getElementById(`block-${from.id}`)?.removeAttribute("transform");
    send(here(`stretches/${from.id}/place`), { place });
  });
  // A field of a list is set and its form sent, as if it had been typed.
  const setField = (id, value) => {
    const field = document.getElementById(id);
    if (!field) return;
    field.value = value;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  };
  const scaleOf = (svg) => svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;
  const bayPlace = (from, event) => {
    const svg = from.what.closest("svg");
    const { bow, stern } = svg.dataset;
    const moved = (event.clientX - from.x) / scaleOf(svg) / (stern - bow) * 100;
    return Math.min(Math.max(from.place + moved, 0), 100).toFixed(1);
  };
  drag("[data-bay]", (what) => ({ place: Number(document.getElementById(`bay-position_${what.dataset.bay}`)?.value ?? 50) }),
    (event, from) => from.what.setAttribute("transform", `translate(${(event.clientX - from.x) / scaleOf(from.what.closest("svg"))} 0)`),
    (event, from) => { from.what.removeAttribute("transform"); setField(`bay-position_${from.what.dataset.bay}`, bayPlace(from, event)); });
  const ampsAt = (from, event) => {
    const svg = from.what.closest("svg");
    const amps = from.amps - (event.clientY - from.y) / scaleOf(svg) / 200 * Number(svg.dataset.most);
    return Math.max(amps, 0).toFixed(1);
  };
  drag("[data-curve=draw] [data-handle]", (what) => ({ amps: Number(document.getElementById(`draw-amps_${what.dataset.handle}`)?.value ?? 0) }),
    (event, from) => from.what.setAttribute("transform", `translate(0 ${(event.clientY - from.y) / scaleOf(from.what.closest("svg"))})`),
    (event, from) => { from.what.removeAttribute("transform"); setField(`draw-amps_${from.what.dataset.handle}`, ampsAt(from, event)); });

  // The same by keyboard.
  const nudge = (event) => {
    const target = event.target;
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!by || !target.closest) return false;
    const block = target.closest("[data-block]");
    if (block && event.key.startsWith("Arrow") && /Left|Right/.test(event.key)) {
      const id = block.dataset.block;
      if (event.shiftKey) send(here(`stretches/${id}/place`), { place: Number(block.dataset.index) + by });
      else send(here(`stretches/${id}/minutes`), { minutes: Math.max(Number(block.dataset.minutes) + 5 * by, 5) });
      return true;
    }
    const bay = target.closest("[data-bay]");
    if (bay) {
      const id = `bay-position_${bay.dataset.bay}`;
      setField(id, Math.min(Math.max(Number(document.getElementById(id).value) + by, 0), 100));
      return true;
    }
    const handle = target.closest("[data-curve=draw] [data-handle]");
    if (handle) {
      const id = `draw-amps_${handle.dataset.handle}`;
      setField(id, Math.max(Number(document.getElementById(id).value) + by * 0.5, 0));
      return true;
    }
    return false;
  };

  // A file is sent with its progress shown, and can be cancelled on the way.
  document.addEventListener("submit", (event) => {
    const form = event.target.closest?.("form[data-upload]");
    if (!form) return;
    event.preventDefault();
    const bar = form.querySelector("progress");
    const cancel = form.querySelector("[data-cancel]");
    const request = new XMLHttpRequest();
    const done = () => { bar.hidden = true; cancel.hidden = true; };
    request.upload.addEventListener("progress", (e) => { if (e.lengthComputable) bar.value = e.loaded / e.total * 100; });
    request.addEventListener("load", () => {
      done();
      // The answer is the whole page, as it would be without this script.
      const page = new DOMParser().parseFromString(request.responseText, "text/html").getElementById("page");
      // Where it led to stands in the address, so that it can be reloaded.
      if (request.status === 200 && request.responseURL !== form.action) history.replaceState(null, "", request.responseURL);
      if (page) {
        document.getElementById("page").replaceWith(page);
        window.htmx.process(page);
        // What was refused is where one goes on.
        page.querySelector("[aria-invalid], h1").focus();
      }
    });
    request.addEventListener("error", done);
    request.addEventListener("abort", done);
    cancel.onclick = () => request.abort();
    bar.hidden = false;
    cancel.hidden = false;
    request.open("POST", form.action);
    request.send(new FormData(form));
  });

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

  // Not on the page before it is wanted, and not after.
  const showKeys = () => {
    document.body.append(document.getElementById("keys-shown").content.cloneNode(true));
    const dialog = document.getElementById("keys");
    dialog.addEventListener("close", () => dialog.remove());
    dialog.showModal();
  };

  const keys = {
    j: () => step(1),
    k: () => step(-1),
    e: () => press("[data-lane-edit]", laneNow()),
    p: () => {
      const pin = laneNow()?.querySelector("[data-lane-pin]");
      if (pin) pin.click(); else press("[data-key=pick]");
    },
    J: () => press("[data-lane-down]", laneNow()),
    K: () => press("[data-lane-up]", laneNow()),
    c: () => press("[data-lane-slim]", laneNow()),
    h: () => press("[data-lane-hide]", laneNow()),
    t: () => document.getElementById("cursor")?.focus(),
    w: () => press("#open-wants"),
    d: () => press("[data-key=day]"),
    r: () => press("[data-key=rigs]"),
    n: () => press("[data-key=new]"),
    u: () => press("[data-key=undo]"),
    U: () => press("[data-key=redo]"),
    "?": () => showKeys(),
    "/": () => document.querySelector("[data-search]")?.focus(),
    Escape: () => { const looks = document.getElementById("looks"); if (looks?.open) looks.open = false; else press("[data-key=close]"); },
  };

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    const typing = event.target.closest?.("input, select, textarea");
    if (typing && event.key !== "Escape") return;
    if (typing) typing.blur();
    if (nudge(event)) { event.preventDefault(); return; }
    if (/^[1-8]$/.test(event.key)) { press(`[data-tab="${event.key}"]`); return; }
    const act = Object.hasOwn(keys, event.key) ? keys[event.key] : null;
    if (act) { event.preventDefault(); act(); }
  });

  // An open dialog keeps the focus, and a press beside it closes it.
  document.addEventListener("keydown", (event) => {
    const dialog = document.querySelector("dialog[open]");
    if (event.key !== "Tab" || !dialog) return;
    const stops = [...dialog.querySelectorAll("a[href], button, input, select, textarea")];
    const at = stops.indexOf(document.activeElement), next = at + (event.shiftKey ? -1 : 1);
    event.preventDefault();
    stops.at(next % stops.length)?.focus();
  });
  document.addEventListener("click", ({ target, clientX: x, clientY: y }) => {
    if (!target.matches?.("dialog[open]")) return;
    const box = target.getBoundingClientRect();
    if (x < box.left || x > box.right || y < box.top || y > box.bottom) target.close();
  });

  // The list of units, clocks and themes closes when something else is done.
  for (const kind of ["click", "focusin"]) {
    document.addEventListener(kind, ({ target }) => {
      const looks = document.getElementById("looks");
      if (looks?.open && !looks.contains(target)) looks.open = false;
      for (const why of document.querySelectorAll(".why[open]")) if (!why.contains(target)) why.open = false;
    });
  }

  document.addEventListener("alpine:init", () => {
    window.Alpine.data("shell", () => ({
      showKeys,
      setTheme(key) {
        document.documentElement.dataset.theme = key;
        document.querySelector(".looks-more").textContent = " · " + document.querySelector(`[data-theme-choice="${key}"]`).textContent;
        document.cookie = `theme=${key}; Path=/; Max-Age=31536000; SameSite=Strict`;
        for (const button of document.querySelectorAll("[data-theme-choice]")) {
          button.setAttribute("aria-pressed", String(button.dataset.themeChoice === key));
        }
      },
    }));
  });

  // The clock of a test on the bench: kept through reloads and a closed page, for it takes hours.
  const timerKey = () => "timer:" + location.pathname;
  const begun = () => { try { return Number(localStorage.getItem(timerKey())); } catch { return 0; } };
  const mark = (at) => { try { if (at) localStorage.setItem(timerKey(), at); else localStorage.removeItem(timerKey()); } catch { /* off: the clock on the wall is as good */ } };
  const two = (n) => String(n).padStart(2, "0");
  const tick = () => {
    const box = document.querySelector("[data-timer]");
    if (!box) return;
    const at = begun(), gone = at ? Math.max(0, Math.floor((Date.now() - at) / 1000)) : 0;
    box.hidden = false;
    box.querySelector("[data-timer-begin]").hidden = Boolean(at);
    for (const name of ["end", "drop"]) box.querySelector(`[data-timer-${name}]`).hidden = !at;
    box.querySelector("[data-timer-clock]").textContent = `${Math.floor(gone / 3600)}:${two(Math.floor(gone / 60) % 60)}:${two(gone % 60)}`;
  };
  document.addEventListener("click", (event) => {
    const on = (name) => event.target.closest?.(`[data-timer-${name}]`);
    if (on("begin")) mark(Date.now());
    else if (on("drop")) mark(0);
    else if (on("end")) {
      const lasted = document.querySelector("#form-log-capacity [name=lasted]");
      lasted.value = ((Date.now() - begun()) / 60000).toFixed(1);
      lasted.dispatchEvent(new Event("input", { bubbles: true }));
      lasted.focus();
      mark(0);
    } else return;
    tick();
  });
  // On a narrow screen the tab of the page one is on is in sight.
  const tabInSight = () => {
    const tabs = document.querySelector(".tabs"), tab = tabs?.querySelector("[aria-current]");
    if (!tab) return;
    const [all, one] = [tabs, tab].map((box) => box.getBoundingClientRect());
    tabs.scrollLeft += one.left - all.left - (all.width - one.width) / 2;
  };
  document.addEventListener("htmx:after:swap", tabInSight);
  // Another theme is set in larger letters.
  document.addEventListener("lake:theme", tabInSight);
  tabInSight();
  setInterval(tick, 1000);
  document.addEventListener("htmx:after:swap", tick);
  tick();

  // A page that is told when it would show something else: it looks again, unless somebody types there.
  let told = null;
  const listen = () => {
    const part = document.querySelector("[data-told-by]");
    if (told && (!part || !part.isConnected)) { told.close(); told = null; }
    if (!part || told) return;
    told = new EventSource(part.dataset.toldBy);
    const look = () => {
      const now = document.querySelector("[data-told-by]");
      if (!now) return;
      const typed = [...now.querySelectorAll("input, select")].some((f) => f === document.activeElement || (f.tagName === "SELECT" ? ![...f.options].every((o) => o.selected === o.defaultSelected) : f.value !== f.defaultValue));
      // What is typed stays; it is looked again when that is done.
      if (typed) { setTimeout(look, 1000); return; }
      window.htmx.ajax("GET", location.pathname, { source: "#page", target: `#${now.id}`, select: `#${now.id}`, swap: "outerHTML" });
    };
    told.onmessage = look;
  };
  document.addEventListener("DOMContentLoaded", listen);
  document.addEventListener("htmx:after:swap", listen);
  addEventListener("pagehide", () => { told?.close(); told = null; });
  addEventListener("pageshow", listen);
})();
