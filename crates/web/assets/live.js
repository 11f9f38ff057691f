// Under way: each second the server tells how it is, and this puts it on the screen; when it is silent, the page counts on by
// itself and says so. Without this script the page asks again by itself, see its noscript.
(() => {
  "use strict";

  const SILENT = 3500; // ms without a word until the page counts by itself
  const STALE = 12000; // ms without a word until it connects anew
  let stream = null, address = "", face = null, heard = 0, drawn = "", said = new Set(), asked = 0, loud = false, lock = null;
  const $ = (selector) => document.querySelector(selector);
  const text = (element, words) => { if (element && element.textContent !== words) element.textContent = words; };

  // A narrow screen in daylight: black on white, unless its owner chose otherwise.
  const sun = () => {
    const suits = $("[data-sun-suits]") && $(".live-on") && matchMedia("(max-width: 600px)").matches;
    const root = document.documentElement;
    if (suits && root.dataset.theme !== "sun") { root.dataset.before = root.dataset.theme; root.dataset.theme = "sun"; document.dispatchEvent(new Event("lake:theme")); }
    if (!suits && root.dataset.before) { root.dataset.theme = root.dataset.before; delete root.dataset.before; }
  };

  const HIGH = 150;
  const clamp = (share) => Math.min(Math.max(share, 0), 1);
  const water = (live, levels) => {
    for (const rect of live.querySelectorAll("[data-rect]")) {
      const [top, bottom] = rect.dataset.rect.split("-").map((n) => (levels[n] ?? levels[3]));
      rect.setAttribute("y", (HIGH * (1 - clamp(top))).toFixed(1));
      rect.setAttribute("height", (HIGH * clamp(top - bottom)).toFixed(1));
    }
    live.querySelector("[data-wave]")?.setAttribute("transform", `translate(0 ${(HIGH * (1 - clamp(levels[0]))).toFixed(1)})`);
  };
  // Lists are built anew only where they changed: nothing flickers, a reader is not told twice.
  const list = (parent, rows, make) => {
    if (!parent) return;
    const now = JSON.stringify(rows);
    if (parent.dataset.is === now) return;
    parent.dataset.is = now;
    parent.replaceChildren(...rows.map(make));
  };
  const element = (name, className, ...inside) => {
    const made = document.createElement(name);
    if (className) made.className = className;
    made.append(...inside);
    return made;
  };

  const draw = (live) => {
    live.className = `live mood-${face.mood} state-${face.state}`;
    for (const place of live.querySelectorAll("[data-face]")) text(place, String(face[place.dataset.face] ?? ""));
    water(live, face.water);
    list(live.querySelector("[data-rows]"), face.rows, (row) =>
      element("li", `way-${row.end}${row.take ? " way-take" : ""}`, element("b", "", row.gear), " ", element("span", "", row.says)));
    list(live.querySelector("[data-cells]"), face.cells, ([figure, words]) =>
      element("div", "", element("dd", "", figure), element("dt", "", words)));
    list(live.querySelector("[data-warnings]"), face.warnings, (w) => {
      const made = element("li", "", element("b", "", w.title), " ", w.does);
      made.dataset.key = w.key;
      return made;
    });
    warn(face.warnings);
    // Something is asked that the page does not show yet: it is fetched, unless somebody types.
    const shown = [...document.querySelectorAll(".live-which select, .live-ask")];
    const busy = shown.some((s) => s.value) || $("#panel-read") || $(".live-more[open]");
    if (face.asks !== shown.length && asked !== face.asks && !busy) {
      asked = face.asks;
      window.htmx.ajax("GET", location.pathname + location.search, { source: "#page", target: "#page", swap: "outerMorph" });
    }
  };

  // What is new is felt and heard once, where that is allowed.
  const warn = (warnings) => {
    const now = new Set(warnings.map((w) => w.key));
    const fresh = [...now].filter((key) => !said.has(key));
    said = now;
    if (!fresh.length || drawn === "") { drawn = "once"; return; }
    if (navigator.userActivation?.hasBeenActive) navigator.vibrate?.([300, 120, 300]);
    if (loud) beep();
  };
  const beep = () => {
    try {
      const sounds = new AudioContext(), tone = sounds.createOscillator(), loudness = sounds.createGain();
      tone.frequency.value = 880;
      loudness.gain.setValueAtTime(0.4, sounds.currentTime);
      loudness.gain.exponentialRampToValueAtTime(0.001, sounds.currentTime + 0.7);
      tone.connect(loudness).connect(sounds.destination);
      tone.start();
      tone.stop(sounds.currentTime + 0.7);
      tone.onended = () => sounds.close();
    } catch { /* Not allowed here: the picture and the words say it. */ }
  };

  const listen = (live) => {
    if (stream && address === live.dataset.events && stream.readyState !== EventSource.CLOSED) return;
    stream?.close();
    address = live.dataset.events;
    stream = new EventSource(address);
    stream.onmessage = (event) => {
      try { face = JSON.parse(event.data); } catch { return; }
      heard = performance.now();
      const shown = $("#live");
      if (shown) draw(shown);
    };
    stream.addEventListener("over", () => { stream?.close(); stream = null; if ($("#live")) window.htmx.ajax("GET", location.pathname, { target: "#page", swap: "outerMorph" }); });
  };

  // Nobody tells anything: counted on from what was told last.
  const alone = () => {
    const live = $("#live");
    if (!live || !face) return;
    const silent = performance.now() - heard;
    if (silent < SILENT) return;
    if (silent > STALE && (!stream || stream.readyState === EventSource.CLOSED)) { stream?.close(); stream = null; listen(live); }
    const gone = silent / 1000 * (face.plays || 1);
    const left = clamp(face.water[0] - face.falls * gone / 3600);
    const wider = 0.02 * gone / 3600;
    water(live, [left, clamp(left - (face.water[0] - face.water[1]) - wider), clamp(left + (face.water[2] - face.water[0]) + wider), face.water[3], face.water[4]]);
    text(live.querySelector("[data-face=charge]"), (left * 100).toFixed(0));
    const seconds = silent / 1000;
    const ago = seconds < 100 ? `${seconds.toFixed(0)} s` : `${Math.round(seconds / 60)} min`;
    text(live.querySelector("[data-face=heard]"), `no word for ${ago}`);
    const minutes = Math.max(0, Math.round((face.turn - gone) / 60));
    const turn = face.turn >= 0 && face.turn < 86400 ? ` Turn in ${minutes} min at the latest.` : "";
    text(live.querySelector("[data-face=sub]"), ($("#live-words")?.dataset.alone ?? "{}").replace("{}", ago) + turn);
    live.classList.remove("state-live", "state-hand");
    live.classList.add("state-lost");
  };
  setInterval(alone, 1000);

  // The screen stays on where that is allowed, once it was touched.
  const awake = async () => {
    const button = $("[data-awake]");
    if (!("wakeLock" in navigator) || !$("#live")) return;
    if (button) button.hidden = false;
    if (lock || document.visibilityState !== "visible") return;
    try {
      lock = await navigator.wakeLock.request("screen");
      lock.addEventListener("release", () => { lock = null; $("[data-awake]")?.setAttribute("aria-pressed", "false"); });
      $("[data-awake]")?.setAttribute("aria-pressed", "true");
    } catch { lock = null; }
  };

  // A trip that is over, seen again.
  let running = 0;
  const replay = () => {
    const figure = $("[data-replay]");
    if (!figure || figure.dataset.ready) return;
    figure.dataset.ready = "yes";
    let moments = [];
    try { moments = JSON.parse(figure.dataset.replay); } catch { return; }
    const slider = figure.querySelector("[data-replay-at]"), says = figure.querySelector("[data-replay-says]");
    const line = figure.querySelector("[data-replay-line]"), button = figure.querySelector("[data-replay-run]");
    const show = () => {
      const m = moments[slider.value];
      if (!m) return;
      line.setAttribute("x1", m.x);
      line.setAttribute("x2", m.x);
      says.replaceChildren(element("b", "", m.clock), ` ${m.charge}, ${m.draw}; ${m.said}; ${m.ended}`);
    };
    const stop = () => { clearTimeout(running); running = 0; button.textContent = "Play"; };
    const step = () => {
      const at = Number(slider.value);
      if (at >= moments.length - 1 || !figure.isConnected) { stop(); return; }
      const wait = (moments[at + 1].at - moments[at].at) * 1000 / Number(figure.querySelector("[data-replay-speed]").value);
      running = setTimeout(() => { slider.value = at + 1; show(); step(); }, wait);
    };
    slider.addEventListener("input", show);
    button.addEventListener("click", () => {
      if (running) { stop(); return; }
      if (Number(slider.value) >= moments.length - 1) slider.value = 0;
      button.textContent = "Stop";
      show();
      step();
    });
    show();
  };

  const begin = () => {
    sun();
    replay();
    const live = $("#live");
    if (!live) { stream?.close(); stream = null; face = null; drawn = ""; lock?.release(); return; }
    try { face = JSON.parse(live.dataset.frame); heard = performance.now(); } catch { /* The next word brings it. */ }
    if (face) said = new Set(face.warnings.map((w) => w.key));
    drawn = "once";
    $("[data-sound]")?.setAttribute("aria-pressed", String(loud));
    listen(live);
    awake();
  };
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-sound]")) {
      loud = !loud;
      event.target.closest("[data-sound]").setAttribute("aria-pressed", String(loud));
      if (loud) beep();
    }
    if (event.target.closest?.("[data-awake]")) { if (lock) lock.release(); else awake(); } else if (!lock) awake();
  });
  // Out of the pocket: at once as it is now.
  document.addEventListener("visibilitychange", () => {
    const live = $("#live");
    if (document.visibilityState !== "visible" || !live) return;
    if (performance.now() - heard > SILENT) { stream?.close(); stream = null; listen(live); }
    awake();
  });
  // Where there is no network the page is still there: only for whoever looks at it, and where the browser allows it.
  if (location.pathname.endsWith("/live") && "serviceWorker" in navigator) navigator.serviceWorker.register("/worker.js").catch(() => {});
  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:after:swap", begin);
  addEventListener("pageshow", begin);
  addEventListener("resize", sun);
})();
