"use strict";
// What all pages do: orders, ticks, copying, searching, and saying in place when the server is away.
(() => {
  const base = document.body.dataset.base;
  const trouble = document.getElementById("trouble");

  function tell(text) {
    trouble.textContent = text;
    trouble.hidden = text === "";
  }

  // The page stays as it is, with all that was typed.
  document.addEventListener("htmx:sendError", () => tell("The server cannot be reached; this page tries again."));
  document.addEventListener("htmx:afterRequest", event => { if (event.detail.successful) tell(""); });
  document.addEventListener("htmx:responseError", event => tell(wrong(event.detail.xhr.status)));

  function wrong(status) {
    if (status === 401) return "You are signed out. Sign in in another tab, then go on here: nothing typed is lost.";
    if (status === 503) return "The store cannot answer now; this page tries again.";
    return "The server answered " + status + ".";
  }

  async function send(method, path, body, key, more = {}) {
    let answer;
    try {
      answer = await fetch(path, {
        method,
        headers: { "Content-Type": "application/json", "Accept": "application/json", ...(method === "POST" ? { "Idempotency-Key": key } : {}), ...more },
        body: JSON.stringify(body),
        credentials: "same-origin"
      });
    } catch (gone) {
      return { well: false, text: "The server cannot be reached. Nothing is lost: send it again when it is back; it is carried out once." };
    }
    if (answer.status === 401) return { well: false, text: wrong(401) };
    const text = await answer.text();
    let view = {};
    try { view = text ? JSON.parse(text) : {}; } catch (none) { /* Not everything has a body. */ }
    if (answer.ok) return { well: true, view };
    const errors = (view.errors || []).map(error => error.detail).join("; ");
    return { well: false, text: errors || view.detail || wrong(answer.status) };
  }

  function value(field) {
    const text = field.value.trim();
    if (field.dataset.kind === "number") return Number.isInteger(Number(text)) ? Number(text) : text;
    if (field.dataset.kind === "json") return JSON.parse(text);
    if (field.dataset.kind !== "payload") return text;
    try { return JSON.parse(text); } catch (plain) { return text; }
  }

  // An order keeps its key until it was answered, so that sending it again does not order it again.
  const keys = new WeakMap();

  async function order(form) {
    const body = JSON.parse(form.dataset.members);
    const says = form.querySelector(".answer");
    let path = form.dataset.path;
    for (const field of form.querySelectorAll("[data-kind]")) {
      if (field.dataset.kind === "place") {
        if (field.value.trim() === "") {
          says.classList.add("bad");
          says.textContent = "Say which name.";
          field.focus();
          return;
        }
        path = path.replace("{" + field.name + "}", encodeURIComponent(field.value.trim()));
        continue;
      }
      try {
        if (field.value.trim() !== "") body[field.name] = value(field);
      } catch (wrong) {
        says.classList.add("bad");
        says.textContent = field.name + " is not JSON: " + wrong.message;
        field.focus();
        return;
      }
    }
    const button = form.querySelector("button");
    const text = path + JSON.stringify(body);
    const kept = keys.get(form);
    const key = kept && kept.text === text ? kept.key : crypto.randomUUID();
    keys.set(form, { key, text });
    button.disabled = true;
    const result = await send(form.dataset.method, path, body, key);
    button.disabled = false;
    says.classList.toggle("bad", !result.well);
    if (!result.well) {
      says.textContent = result.text;
      return;
    }
    keys.delete(form);
    says.textContent = "Done.";
    form.querySelector(".report").textContent = result.view.busiest ? rehearsed(result.view) : "";
    if (result.view.run) {
      const link = document.createElement("a");
      link.href = base + "/runs/" + encodeURIComponent(result.view.run);
      link.textContent = "Run " + result.view.run;
      says.append(" ", link);
    }
    form.dispatchEvent(new CustomEvent("brume:ordered", { bubbles: true, detail: result.view }));
  }

  // What a rehearsal came to: what would not go as it is owed, and where it is crowded.
  function rehearsed(view) {
    const lines = view.jobs
      .filter(job => job.busy > 0 || job.waited > 0 || job.latestMillis > 60000 || job.open > 0)
      .map(job => job.job + ": " + [
        job.skipped > 0 ? job.skipped + " skipped as busy" : "",
        job.waited > 0 ? job.waited + " waited" : "",
        job.latestMillis > 60000 ? "up to " + Math.round(job.latestMillis / 60000) + " min late" : "",
        job.open > 0 ? job.open + " not ended at the end" : ""
      ].filter(part => part !== "").join(", "));
    const busiest = view.busiest[0];
    const runs = view.jobs.reduce((sum, job) => sum + job.runs, 0);
    return (lines.length > 0 ? lines.join("\n") + "\n" : runs === 0 ? "Nothing runs in that time.\n" : runs === 1 ? "The one run begins in time.\n" : "All " + runs + " runs begin in time.\n")
      + (busiest ? "Most at once: " + busiest.running + (busiest.running === 1 ? " run goes on at " : " go on at ") + busiest.minute + ".\n" : "")
      + view.lanes.map(lane => "Lane " + lane.lane + ": at most " + lane.most + " of " + lane.workers + " workers are busy.").join("\n");
  }

  document.addEventListener("submit", event => {
    if (event.target.dataset.path) {
      event.preventDefault();
      order(event.target);
    }
  });

  // Several jobs at once.
  const many = document.getElementById("many");
  const ticked = () => [...document.querySelectorAll(".tick:checked")].map(box => box.value);
  const path = job => job.split("/").map(encodeURIComponent).join("/");
  const orders = {
    pause: job => ["POST", "/pauses", { job }],
    resume: job => ["POST", "/resumptions", { job }],
    run: job => ["POST", "/jobs/" + path(job) + "/runs", {}]
  };
  const past = { pause: "paused", resume: "resumed", run: "started", tag: "tagged", untag: "without the tag" };
  const asked = { pause: "Pause", resume: "Resume", run: "Run now", tag: "Tag", untag: "Take the tag off" };

  // A tag stands in the definition: what somebody else changed meanwhile is not overwritten, and what a file defines is left to it.
  async function tag(base, job, label, on, because) {
    const at = base + "/jobs/" + path(job) + "/definition";
    try {
      const read = await fetch(at, { headers: { "Accept": "application/json" }, credentials: "same-origin" });
      if (!read.ok) return { well: false, text: wrong(read.status) };
      const definition = await read.json();
      const tags = (definition.tags || []).filter(own => own !== label);
      definition.tags = on ? [...tags, label] : tags;
      return await send("PUT", at + (because ? "?because=" + encodeURIComponent(because) : ""), definition, "", { "If-Match": read.headers.get("ETag") });
    } catch (gone) {
      return { well: false, text: "the server cannot be reached" };
    }
  }
  if (many) {
    document.addEventListener("change", event => {
      if (event.target.classList.contains("tick")) {
        document.getElementById("ticked").textContent = ticked().length === 0 ? "none ticked" : ticked().length + " ticked";
      }
    });
    many.addEventListener("submit", event => event.preventDefault());
    many.addEventListener("click", async event => {
      const what = event.target.dataset.order;
      if (!what) return;
      const says = many.querySelector(".answer");
      const jobs = ticked();
      if (jobs.length === 0) {
        says.textContent = "Tick the jobs first.";
        return;
      }
      const tags = what === "tag" || what === "untag";
      const label = tags ? many.elements.label.value.trim() : "";
      if (tags && label === "") {
        says.textContent = "Say which tag.";
        many.elements.label.focus();
        return;
      }
      if (!window.confirm(asked[what] + (tags ? " '" + label + "'" : "") + ": " + jobs.join(", ") + "?")) return;
      const wrongs = [];
      for (const job of jobs) {
        const because = many.elements.because.value.trim();
        if (tags) {
          const result = await tag(many.dataset.base, job, label, what === "tag", because);
          if (!result.well) wrongs.push(job + ": " + result.text);
          continue;
        }
        const [method, to, body] = orders[what](job);
        const result = await send(method, many.dataset.base + to, because ? { ...body, because } : body, crypto.randomUUID());
        if (!result.well) wrongs.push(job + ": " + result.text);
      }
      says.classList.toggle("bad", wrongs.length > 0);
      says.textContent = jobs.length - wrongs.length + " " + past[what] + (wrongs.length > 0 ? "; " + wrongs.join("; ") : ".");
    });
  }

  document.addEventListener("click", async event => {
    const from = event.target.dataset && event.target.dataset.copy;
    if (from) {
      await navigator.clipboard.writeText(document.querySelector(from).textContent.trim());
      event.target.textContent = "Copied";
    }
  });

  // Searching in an output: what is found is marked, the first is shown.
  document.addEventListener("input", event => {
    if (!event.target.classList.contains("find")) return;
    const output = event.target.closest("details").querySelector(".output");
    const text = output.textContent;
    const wanted = event.target.value;
    output.textContent = "";
    if (wanted === "") {
      output.textContent = text;
      return;
    }
    let from = 0;
    for (let at = text.indexOf(wanted); at >= 0; at = text.indexOf(wanted, from)) {
      const mark = document.createElement("mark");
      mark.textContent = wanted;
      output.append(text.slice(from, at), mark);
      from = at + wanted.length;
    }
    output.append(text.slice(from));
    const first = output.querySelector("mark");
    if (first) first.scrollIntoView({ block: "nearest" });
  });

  // How long it is until something.
  function distance(to) {
    const seconds = Math.round((Date.parse(to) - Date.now()) / 1000);
    const size = Math.abs(seconds) < 120 ? Math.abs(seconds) + " s"
      : Math.abs(seconds) < 7200 ? Math.floor(Math.abs(seconds) / 60) + " min"
      : Math.floor(Math.abs(seconds) / 3600) + " h " + Math.floor(Math.abs(seconds) % 3600 / 60) + " min";
    return seconds <= 0 ? "now" : "in " + size;
  }
  if (!document.body.dataset.asOf) {
    setInterval(() => document.querySelectorAll("[data-moment]").forEach(part => { part.textContent = distance(part.dataset.moment); }), 1000);
  }

  // A run that is live is shown as it goes on; output is followed to its end unless somebody scrolled up.
  const run = document.getElementById("run");
  if (run && run.dataset.live === "true" && !document.body.dataset.asOf) {
    const again = async () => {
      try {
        const answer = await fetch(location.href, { headers: { "Accept": "text/html" }, credentials: "same-origin" });
        if (answer.ok && !answer.redirected) {
          tell("");
          const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("run");
          const here = document.getElementById("run");
          if (fresh && !here.contains(document.activeElement) && !here.querySelector("details.order[open]")) {
            here.replaceWith(fresh);
            fresh.querySelectorAll(".output").forEach(part => { part.scrollTop = part.scrollHeight; });
          }
          if (fresh && fresh.dataset.live !== "true") return;
        } else {
          tell(wrong(answer.redirected ? 401 : answer.status));
        }
      } catch (gone) {
        tell("The server cannot be reached; this page tries again.");
      }
      setTimeout(again, 2000);
    };
    setTimeout(again, 2000);
  }

  window.brume = { tell, wrong, rehearsed };
})();
