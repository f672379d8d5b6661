"use strict";
// The board: what a mark says, moving by keys, and rows that change as things happen.
(() => {
  const board = document.getElementById("board");
  if (!board) return;
  const base = document.body.dataset.base;
  const says = document.getElementById("says");
  const first = says.textContent;
  const asOf = document.body.dataset.asOf;
  let asked = 0;
  let chosen = null;

  async function say(mark) {
    // Whatever is chosen now, an answer about what was chosen before comes too late.
    const mine = ++asked;
    if (chosen) chosen.classList.remove("chosen");
    chosen = mark;
    if (!mark) return;
    mark.classList.add("chosen");
    const row = mark.closest(".row");
    const name = document.createElement("b");
    name.textContent = row.dataset.job;
    const text = mark.querySelector("title").textContent;
    says.replaceChildren(name, text);
    if (mark.querySelector(":scope > .band") || "says" in mark.dataset || asOf) return;
    await new Promise(go => setTimeout(go, 120));
    if (mine !== asked) return;
    try {
      const job = row.dataset.job.split("/").map(encodeURIComponent).join("/");
      const answer = await fetch(base + "/jobs/" + job + "/why?at=" + encodeURIComponent(mark.dataset.at), { credentials: "same-origin" });
      if (mine === asked && answer.ok) says.replaceChildren(name, (await answer.text()).trim());
    } catch (gone) {
      if (mine === asked) says.replaceChildren(name, text + " (the server cannot be reached for more)");
    }
  }

  board.addEventListener("mouseover", event => {
    const mark = event.target.closest(".line > a");
    if (mark && mark !== chosen) say(mark);
  });
  // A tap says what a mark is; the second follows it.
  let touched = null;
  board.addEventListener("touchstart", event => {
    const mark = event.target.closest(".line > a");
    if (mark && mark !== touched) {
      event.preventDefault();
      touched = mark;
      say(mark);
    }
  }, { passive: false });

  const lines = () => [...board.querySelectorAll(".line")];
  function reachable() {
    const line = board.querySelector('.line[tabindex="0"]') || board.querySelector(".line");
    if (line) line.setAttribute("tabindex", "0");
  }
  function go(line) {
    const old = board.querySelector('.line[tabindex="0"]');
    if (old) old.setAttribute("tabindex", "-1");
    line.setAttribute("tabindex", "0");
    line.focus();
  }
  board.addEventListener("keydown", event => {
    const line = event.target.closest(".line");
    if (!line) return;
    const all = lines();
    const marks = [...line.querySelectorAll(":scope > a")];
    const at = marks.indexOf(chosen);
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const down = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step && marks.length > 0) {
      say(marks[Math.min(marks.length - 1, Math.max(0, at < 0 ? (step > 0 ? 0 : marks.length - 1) : at + step))]);
    } else if (down) {
      const to = all[all.indexOf(line) + down];
      if (to) go(to);
    } else if (event.key === "Home" || event.key === "End") {
      if (marks.length > 0) say(marks[event.key === "Home" ? 0 : marks.length - 1]);
    } else if (event.key === "Enter" && at >= 0) {
      location.href = chosen.getAttribute("href");
    } else if (event.key === "Escape") {
      say(null);
      says.textContent = first;
    } else {
      return;
    }
    event.preventDefault();
  });
  reachable();
  document.addEventListener("htmx:afterSettle", reachable);
  if (asOf) return;

  // Now goes on; when it has gone a twentieth of the board, all of it is laid out anew.
  let scale;
  function read() {
    const now = Date.parse(board.dataset.now);
    scale = { from: Date.parse(board.dataset.from), until: Date.parse(board.dataset.until), skew: now - Date.now(), begun: now };
  }
  read();
  setInterval(() => {
    const now = Date.now() + scale.skew;
    const x = ((now - scale.from) / (scale.until - scale.from) * 100).toFixed(3) + "%";
    const line = document.getElementById("now");
    if (line) {
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
      board.querySelectorAll(".ahead, .axis text.now").forEach(part => part.setAttribute("x", x));
    }
    if (now - scale.begun > (scale.until - scale.from) / 20) again();
  }, 1000);

  async function page(more) {
    const address = new URL(location.href);
    for (const [name, value] of new URLSearchParams(more)) address.searchParams.set(name, value);
    const answer = await fetch(address, { headers: { "Accept": "text/html" }, credentials: "same-origin" });
    if (answer.redirected || !answer.ok) throw new Error(window.brume.wrong(answer.redirected ? 401 : answer.status));
    window.brume.tell("");
    return new DOMParser().parseFromString(await answer.text(), "text/html");
  }

  let goes = false;
  let wanted = false;
  async function again() {
    if (goes || board.contains(document.activeElement)) {
      // Not now, but not never.
      if (!wanted) {
        wanted = true;
        setTimeout(() => { wanted = false; again(); }, 3000);
      }
      return;
    }
    goes = true;
    try {
      const fresh = (await page("")).getElementById("board");
      board.replaceChildren(...fresh.childNodes);
      for (const name of ["from", "until", "now", "events"]) board.dataset[name] = fresh.dataset[name];
      chosen = null;
      read();
      reachable();
      sight.disconnect();
      near.clear();
      known.clear();
      watch();
      for (const job of waiting) if (!known.has(job)) missed.set(job, Date.now());
      // It may have been laid out before what was told last.
      follow();
      window.htmx.process(board);
    } catch (wrong) {
      window.brume.tell(wrong.message.startsWith("Failed") ? "The server cannot be reached; this page tries again." : wrong.message);
    }
    setTimeout(() => { goes = false; }, 3000);
  }

  // Events say which rows to lay out anew; a row is put in place of itself, so that nothing moves. Those that nobody sees wait until somebody does.
  const waiting = new Set();
  // Those that had no row when all of it was laid out anew, and when that was.
  const missed = new Map();
  const known = new Set();
  const near = new Set();
  const sight = new IntersectionObserver(entries => {
    for (const entry of entries) {
      const job = entry.target.dataset.job;
      if (entry.isIntersecting) near.add(job); else near.delete(job);
      if (entry.isIntersecting && waiting.has(job)) plan(150);
    }
  }, { rootMargin: "30% 0px" });
  function watch() {
    for (const row of board.querySelectorAll(".row:not([data-watched])")) {
      row.dataset.watched = "";
      known.add(row.dataset.job);
      sight.observe(row);
    }
  }
  const isNew = job => !known.has(job) && !(Date.now() - missed.get(job) < 60000);
  let timer = null;
  const query = new URLSearchParams(location.search);
  async function refresh() {
    timer = null;
    // One that had nothing to show so far has a row from now on; or it is among those that come as somebody scrolls, and waits for that.
    if (!query.has("text") && !board.querySelector(".more") && [...waiting].some(isNew)) again();
    const shown = [...waiting].filter(job => near.has(job)).slice(0, 25);
    shown.forEach(job => waiting.delete(job));
    try {
      if (shown.length > 0) {
        query.set("rows", shown.join(","));
        query.set("from", board.dataset.from);
        query.set("part", "true");
        const answer = await fetch(base + "/?" + query, { credentials: "same-origin", headers: { "Accept": "text/html" } });
        if (answer.ok && !answer.redirected) put(await answer.text());
      }
    } catch (gone) {
      window.brume.tell("The server cannot be reached; this page tries again.");
    }
    if ([...waiting].some(job => near.has(job))) plan(1000);
  }
  function put(html) {
    for (const fresh of new DOMParser().parseFromString(html, "text/html").querySelectorAll(".row")) {
      const old = document.getElementById(fresh.id);
      if (!old || old.innerHTML === fresh.innerHTML) continue;
      const line = old.querySelector(".line");
      const fresher = fresh.querySelector(".line");
      fresher.setAttribute("tabindex", line.getAttribute("tabindex") || "-1");
      const held = line === document.activeElement;
      const at = chosen && old.contains(chosen) ? chosen.dataset.at : null;
      line.replaceWith(fresher);
      old.querySelector(".row-name").replaceWith(fresh.querySelector(".row-name"));
      old.classList.remove("changed");
      void old.offsetWidth;
      old.classList.add("changed");
      if (held) fresher.focus();
      if (at) {
        chosen = fresher.querySelector('a[data-at="' + at + '"]');
        if (chosen) chosen.classList.add("chosen");
      }
    }
  }
  // The sentence is told anew at most every five seconds.
  let news = null;
  let last = 0;
  let newest = 0;
  function tellAnew() {
    if (!news) news = setTimeout(sentence, Math.max(150, 5000 - (Date.now() - last)));
  }
  async function sentence() {
    news = null;
    last = Date.now();
    try {
      const fresh = (await page("verdict=true")).getElementById("verdict");
      const old = document.getElementById("verdict");
      if (fresh && old && fresh.innerHTML !== old.innerHTML && !old.contains(document.activeElement)) {
        old.innerHTML = fresh.innerHTML;
        old.className = fresh.className;
      }
      // It is of a moment ago: what was told since is in the next.
      if (fresh && Date.parse(fresh.dataset.at) < newest) tellAnew();
    } catch (gone) {
      window.brume.tell("The server cannot be reached; this page tries again.");
    }
  }
  function plan(millis) {
    if (!timer) timer = setTimeout(refresh, millis);
  }

  watch();
  document.addEventListener("htmx:afterSettle", watch);
  // What the doctor finds may have come after the page.
  setTimeout(tellAnew, 3000);
  const on = event => {
    const about = JSON.parse(event.data);
    if (about.job) {
      const job = about.job.includes("/") ? about.job : "main/" + about.job;
      waiting.add(job);
      if (near.has(job) || isNew(job)) plan(150);
      newest = Math.max(newest, Date.parse(about.at));
      tellAnew();
    }
  };
  let events = null;
  function follow() {
    if (events) events.close();
    events = new EventSource(base + "/api/v1/events" + (board.dataset.events ? "?after=" + encodeURIComponent(board.dataset.events) : ""));
    for (const kind of board.dataset.kinds.split(" ")) events.addEventListener(kind, on);
    events.addEventListener("reset", () => again());
    events.addEventListener("ready", () => window.brume.tell(""));
    events.addEventListener("error", () => window.brume.tell("Live changes are interrupted; this page goes on as soon as the server answers."));
    events.addEventListener("out", () => { events.close(); window.brume.tell(window.brume.wrong(401)); });
  }
  follow();
})();
