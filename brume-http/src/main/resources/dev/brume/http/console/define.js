"use strict";
// Defining a job: the form and the document follow each other, what they come to is told as somebody types, and nothing typed is lost.
(() => {
  const root = document.getElementById("define");
  if (!root) return;
  const base = root.dataset.base;
  const form = document.getElementById("form");
  const when = form.querySelector("[data-when]");
  const text = document.getElementById("document");
  const save = document.getElementById("save");
  const answer = save.querySelector(".answer");
  const says = id => document.getElementById(id);
  const isNew = root.dataset.seen === "";
  const begun = text.value;
  let seen = root.dataset.seen;
  let view = null;
  let edited = null;
  let touched = false;
  let tried = false;
  let asked = 0;
  let timer = null;

  const named = which => {
    const field = form.querySelector('[data-name="' + which + '"]');
    return (field ? field.value : root.dataset[which]).trim();
  };

  // The fields.
  function values() {
    const fields = {};
    for (const field of form.querySelectorAll("[data-field]")) {
      if (field.disabled || field.closest("[hidden]")) continue;
      const name = field.dataset.field;
      fields[name] = field.type === "checkbox" ? field.checked
        : name === "tags" ? field.value.split(/[,\s]+/).filter(tag => tag !== "")
        : field.value;
    }
    if (!when.disabled && (!isNew || touched)) fields.when = window.brumeWhen.read(when);
    return fields;
  }
  function fill(fields) {
    for (const field of form.querySelectorAll("[data-field]")) {
      const value = fields[field.dataset.field];
      field.disabled = value === null;
      field.title = value === null ? "The document says this in a form of its own." : "";
      if (value === null || value === undefined) continue;
      if (field.type === "checkbox") field.checked = value;
      else if (Array.isArray(value)) field.value = value.join(", ");
      else if (field.tagName === "SELECT" && ![...field.options].some(option => option.value === value)) {
        field.disabled = true;
        field.title = "The document says this in a form of its own.";
      } else field.value = value;
    }
    if (fields.when && !(isNew && fields.when.pattern === "none" && text.value.trim() === "")) window.brumeWhen.write(when, fields.when);
    arrange();
  }
  function arrange() {
    const work = form.querySelector('[data-field="work"]').value;
    for (const part of form.querySelectorAll("[data-work]")) part.hidden = part.dataset.work !== work;
    window.brumeWhen.arrange(when);
  }

  // What it comes to is asked as somebody types; the newest answer counts.
  function plan(which, millis) {
    edited = which;
    // What is on its way was asked of something else.
    asked++;
    keep();
    clearTimeout(timer);
    timer = setTimeout(ask, millis);
  }
  async function ask() {
    clearTimeout(timer);
    const mine = ++asked;
    const body = { namespace: named("namespace"), name: named("name"), document: text.value, ...(seen ? { seen } : {}) };
    const byForm = edited === "form";
    if (byForm) body.form = values();
    let found;
    try {
      const reply = await fetch(base + "/api/v1/drafts", {
        method: "POST",
        headers: { "Content-Type": "application/json", "Accept": "application/json" },
        body: JSON.stringify(body),
        credentials: "same-origin"
      });
      if (mine !== asked) return;
      if (!reply.ok) {
        const problem = await reply.json().catch(() => ({}));
        window.brume.tell(reply.status === 401 || reply.status === 503 ? window.brume.wrong(reply.status) : (problem.errors || []).map(error => error.detail).join("; ") || problem.detail || window.brume.wrong(reply.status));
        if (reply.status === 503) timer = setTimeout(ask, 3000);
        return;
      }
      found = await reply.json();
    } catch (gone) {
      if (mine !== asked) return;
      window.brume.tell("The server cannot be reached; what you type is kept here, and this page tries again.");
      timer = setTimeout(ask, 3000);
      return;
    }
    window.brume.tell("");
    if (mine !== asked) return;
    if (text.value !== body.document) {
      // Written on meanwhile: that counts.
      plan("document", 0);
      return;
    }
    view = found;
    if (byForm && found.job !== null || byForm && found.document !== "") text.value = found.document;
    else if (!byForm && found.form && found.form.work !== undefined && !found.problems.some(problem => problem.line && problem.field === null)) fill(found.form);
    tell();
    keep();
  }

  // What is wrong stands at its field; what has none stands in the list, with its line.
  function tell() {
    window.brumeWhen.clear(form);
    const list = says("problems");
    list.replaceChildren();
    view.problems.forEach((problem, i) => {
      // What was not filled in yet is no mistake before somebody saves.
      const field = fieldOf(problem);
      const early = !tried && (problem.message.startsWith("is missing") || field && field.value === "" || isNew && !touched || isNew && problem.message.startsWith("has no "));
      if (!early && !window.brumeWhen.at(field, problem, i)) list.append(line(problem));
    });
    const timing = view.timing;
    says("words").textContent = timing && timing.words !== "" ? timing.words
      : view.after || timing && timing.parts && timing.parts.pattern === "after" ? "After each run of " + (view.after || timing.parts.after) + ", once it " + { success: "succeeded", failure: "failed", end: "ended" }[view.on || timing.parts.on]
      : "Choose when it is to happen.";
    window.brumeWhen.tell(says("timing"), timing);
    // Schedules that the parts do not have stay as they are written.
    const unsaid = timing && timing.parts === null && timing.written.length > 0 ? timing.whyNoParts : "";
    when.disabled = unsaid !== "";
    says("unsaid").hidden = unsaid === "";
    says("unsaid").textContent = unsaid === "" ? "" : "When it runs stays as the document says it, since " + unsaid + ". ";
    if (unsaid !== "") {
      const other = window.brumeWhen.element("button", "Choose anew");
      other.type = "button";
      other.addEventListener("click", () => { when.disabled = false; says("unsaid").hidden = true; touched = true; plan("form", 0); });
      says("unsaid").append(other);
    }
    says("besides").textContent = view.besides.length === 0 ? "" : "The document also says " + view.besides.join(", ") + ", for which this form has no fields.";
    changes();
    meanwhile();
    save.querySelector(".main").disabled = false;
  }
  const line = problem => window.brumeWhen.line(problem, number => {
    const lines = text.value.split("\n");
    const from = lines.slice(0, number - 1).join("\n").length + (number > 1 ? 1 : 0);
    text.focus();
    text.setSelectionRange(from, from + (lines[number - 1] || "").length);
  });
  const fieldOf = problem => !problem.field ? null
    : problem.field.startsWith("when") ? window.brumeWhen.part(when, problem.field)
    : form.querySelector('[data-field="' + problem.field + '"], [data-name="' + problem.field + '"]');

  // What changes, and how coming occurrences shift.
  function changes() {
    const into = says("changes");
    into.replaceChildren();
    const all = view.changes || [];
    if (all.every(change => change.kind === "UNCHANGED")) {
      into.append(window.brumeWhen.element("p", "Nothing yet.", "empty"));
      return;
    }
    for (const change of all) {
      if (change.kind === "UNCHANGED") continue;
      into.append(window.brumeWhen.element("p", change.kind === "NEW" ? change.job + " is new."
        : change.difference.length === 0 && change.movesFrom ? "Nothing but that " + change.job + " is taken over from " + change.movesFrom + "."
        : change.job + " gets version " + (change.version + 1) + (change.movesFrom ? ", taken over from " + change.movesFrom : "") + "."));
      if (change.difference.length > 0) {
        const lines = window.brumeWhen.element("pre", change.difference.join("\n"), "diff");
        lines.tabIndex = 0;
        into.append(lines);
      }
      if (change.shift && (change.shift.gone.length > 0 || change.shift.added.length > 0)) {
        into.append(window.brumeWhen.element("p", "In the next two weeks it is owed " + change.shift.after + " times" + (change.kind === "NEW" ? "" : " instead of " + change.shift.before) + ": "
          + [some(change.shift.gone, "no more"), some(change.shift.added, "new")].filter(part => part !== "").join("; ") + "."));
      }
    }
  }
  const zone = () => view.timing ? view.timing.zone : "UTC";
  const clock = () => new Intl.DateTimeFormat("en-GB", { timeZone: zone(), weekday: "short", year: "numeric", month: "2-digit", day: "2-digit", hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
  function local(instant) {
    const parts = Object.fromEntries(clock().formatToParts(new Date(instant)).map(part => [part.type, part.value]));
    return parts.weekday + " " + parts.year + "-" + parts.month + "-" + parts.day + " " + parts.hour + ":" + parts.minute;
  }
  function some(instants, word) {
    if (instants.length === 0) return "";
    return instants.slice(0, 3).map(local).join(", ") + (instants.length > 3 ? " and " + (instants.length - 3) + " more" : "") + " " + (instants.length === 1 ? "is" : "are") + " " + word;
  }

  // Somebody else was faster.
  function meanwhile() {
    const other = view.meanwhile;
    const panel = says("meanwhile");
    const opens = panel.hidden && other !== null;
    panel.hidden = other === null;
    if (other === null) return;
    says("meanwhile-title").textContent = "Changed meanwhile: " + other.says;
    says("theirs").textContent = other.theirs.join("\n") || "nothing that is in the document";
    says("mine").textContent = other.mine.join("\n") || "nothing";
    says("clashes").textContent = other.version === null ? "Saving defines the job anew."
      : other.clashes.length > 0 ? "Both of you changed " + other.clashes.join(", ") + "; put together, it is as you have it."
      : other.merged ? "You changed different things: both can be put together." : "What you typed has mistakes, so that the two cannot be put together yet.";
    says("both").hidden = !other.merged;
    says("theirs-only").hidden = !other.document;
    says("both").textContent = "Put both together";
    if (opens) panel.scrollIntoView({ block: "nearest" });
  }
  function settle(content) {
    seen = view.meanwhile.tag || "";
    if (content !== null) text.value = content;
    answer.textContent = "";
    plan("document", 0);
    text.focus();
  }
  says("both").addEventListener("click", () => settle(view.meanwhile.merged));
  says("mine-only").addEventListener("click", () => settle(null));
  says("theirs-only").addEventListener("click", () => settle(view.meanwhile.document));

  // A draft may hold what is secret: it outlives a reload, and no more than its tab.
  const place = "brume-draft " + base + " " + (isNew ? "new" : root.dataset.namespace + "/" + root.dataset.name);
  function keep() {
    if (!touched) return;
    try {
      sessionStorage.setItem(place, JSON.stringify({ seen, at: Date.now(), namespace: named("namespace"), name: named("name"), document: text.value, when: isNew ? window.brumeWhen.read(when) : null, because: save.elements.because.value }));
    } catch (full) { /* Then it lives as long as the page. */ }
  }
  function forget() {
    touched = false;
    try { sessionStorage.removeItem(place); } catch (none) { /* There was none. */ }
  }
  function restore() {
    let kept = null;
    try { kept = JSON.parse(sessionStorage.getItem(place)); } catch (none) { /* There is none. */ }
    if (!kept || kept.document === begun && !kept.name) return false;
    touched = true;
    seen = kept.seen;
    text.value = kept.document;
    save.elements.because.value = kept.because || "";
    for (const which of ["namespace", "name"]) {
      const field = form.querySelector('[data-name="' + which + '"]');
      if (field && kept[which]) field.value = kept[which];
    }
    if (kept.when) window.brumeWhen.write(when, kept.when);
    says("restored").hidden = false;
    says("restored").textContent = "This is what you typed on " + new Date(kept.at).toLocaleString() + " and did not save.";
    return true;
  }
  says("discard").addEventListener("click", () => { forget(); location.reload(); });

  // Saving: what was seen is said, so that nobody's change is lost; sent again, it is the same change.
  save.addEventListener("submit", async event => {
    event.preventDefault();
    touched = true;
    tried = true;
    await ask();
    if (!view) return;
    if (view.meanwhile) {
      refuse("Not saved: decide first what becomes of what was changed meanwhile.");
      says("both").focus();
      return;
    }
    if (!view.isGood) {
      refuse("Not saved: " + (view.problems.filter(problem => problem.severity === "error").length === 1 ? "one thing is" : "some things are") + " wrong.");
      const first = form.querySelector('[aria-invalid="true"]') || says("problems").querySelector(".to-line") || text;
      first.focus();
      return;
    }
    const query = new URLSearchParams();
    if (save.elements.because.value.trim()) query.set("because", save.elements.because.value.trim());
    if (save.elements.takeOver && save.elements.takeOver.checked) query.set("takeOver", "true");
    if (view.on) {
      query.set("after", view.after || "none");
      query.set("on", view.on);
    }
    const button = save.querySelector(".main");
    button.disabled = true;
    try {
      const reply = await fetch(base + "/api/v1/jobs/" + encodeURIComponent(named("namespace")) + "/" + encodeURIComponent(named("name")) + "/definition?" + query, {
        method: "PUT",
        headers: { "Content-Type": "application/yaml", "Accept": "application/json", ...(seen ? { "If-Match": seen } : { "If-None-Match": "*" }) },
        body: text.value,
        credentials: "same-origin"
      });
      const said = await reply.json().catch(() => ({}));
      button.disabled = false;
      if (reply.ok) {
        forget();
        seen = reply.headers.get("ETag");
        answer.classList.remove("bad");
        answer.textContent = said.kind === "UNCHANGED" ? "Nothing was different: version " + said.version + " stays in force. " : "Version " + said.version + " is in force. ";
        const link = document.createElement("a");
        link.href = base + "/jobs/" + encodeURIComponent(named("namespace")) + "/" + encodeURIComponent(named("name"));
        link.textContent = "See the job";
        answer.append(link);
        if (isNew) {
          form.querySelectorAll("[data-name]").forEach(field => { field.disabled = true; });
          button.hidden = true;
          return;
        }
        plan("document", 0);
        touched = false;
        return;
      }
      if (reply.status === 412) {
        await ask();
        refuse("Not saved: somebody else has put another version in force.");
        return;
      }
      refuse("Not saved: " + ((said.errors || []).map(error => error.detail).join("; ") || said.detail || window.brume.wrong(reply.status)));
    } catch (gone) {
      button.disabled = false;
      refuse("Whether it was saved is not known: the server cannot be reached. Nothing typed is lost; save again when it is back.");
    }
  });
  function refuse(why) {
    answer.classList.add("bad");
    answer.textContent = why;
  }

  // Rehearsing this change beside what is in force.
  says("rehearse").addEventListener("click", async () => {
    const into = says("rehearsal");
    const line = into.querySelector(".answer");
    line.classList.remove("bad");
    line.textContent = "The engine lives through two weeks …";
    const name = named("name");
    const definitions = "namespace: " + JSON.stringify(named("namespace")) + "\njobs:\n  " + JSON.stringify(name) + ":\n" + text.value.split("\n").map(each => "    " + each).join("\n") + "\n";
    try {
      let found;
      let length = "";
      // Where a great deal is owed, less of it is lived through.
      const next = view && view.timing && view.timing.next[0];
      const far = next && Date.parse(next.instant) - Date.now() > 13 * 86400000;
      for (length of far ? ["35d", "14d", "2d", "6h"] : ["14d", "2d", "6h"]) {
        const reply = await fetch(base + "/api/v1/rehearsals", {
          method: "POST",
          headers: { "Content-Type": "application/json", "Accept": "application/json" },
          body: JSON.stringify({ definitions, for: length, withOthers: true }),
          credentials: "same-origin"
        });
        found = await reply.json();
        if (reply.ok) break;
        const why = (found.errors || []).map(error => error.detail).join("; ") || found.detail;
        if (length === "6h" || !/occurrences lie in that time|takes longer than/.test(why)) throw new Error(why);
        line.textContent = "That is too much for " + length + "; less of it …";
      }
      const own = found.jobs.find(job => job.job === named("namespace") + "/" + name || job.job === name);
      line.textContent = ({ "35d": "In five weeks: ", "14d": "In two weeks: ", "2d": "In two days, since more is too much at once: ", "6h": "In six hours, since more is too much at once: " })[length] + (own ? "it runs " + (own.runs === 1 ? "once" : own.runs + " times") + (own.busy > 0 ? ", is skipped " + own.busy + " times as busy" : "") + (own.waited > 0 ? ", waits " + own.waited + " times" : "") + "." : "it does not run.");
      into.querySelector(".report").textContent = window.brume.rehearsed(found);
    } catch (wrong) {
      line.classList.add("bad");
      line.textContent = wrong.message.startsWith("Failed") ? "The server cannot be reached." : wrong.message;
    }
  });

  // What a run prints, beside the form.
  document.addEventListener("brume:ordered", async event => {
    const run = event.detail.run;
    if (!run || !says("trial") || !says("trial").contains(event.target)) return;
    const printed = says("printed");
    printed.hidden = false;
    printed.textContent = "";
    for (;;) {
      try {
        const headers = { "Accept": "application/json" };
        const state = await (await fetch(base + "/api/v1/runs/" + encodeURIComponent(run), { headers, credentials: "same-origin" })).json();
        const output = await fetch(base + "/api/v1/runs/" + encodeURIComponent(run) + "/output", { headers: { "Accept": "text/plain" }, credentials: "same-origin" });
        if (output.ok) printed.textContent = await output.text();
        printed.scrollTop = printed.scrollHeight;
        says("went").textContent = state.outcome ? "It ended: " + state.outcome.toLowerCase().replace("_", " ") + "." : "It goes on …";
        if (state.outcome) {
          if (printed.textContent === "") printed.textContent = "(it printed nothing)";
          return;
        }
      } catch (gone) {
        says("went").textContent = "The server cannot be reached; trying again.";
      }
      await new Promise(go => setTimeout(go, 700));
    }
  });

  form.addEventListener("submit", event => event.preventDefault());
  for (const kind of ["input", "change"]) {
    form.addEventListener(kind, event => {
      touched = true;
      arrange();
      plan("form", kind === "change" || event.target.type === "checkbox" ? 0 : 300);
    });
  }
  text.addEventListener("input", () => { touched = true; plan("document", 400); });
  save.addEventListener("input", keep);
  window.addEventListener("beforeunload", keep);

  if (restore() && !isNew) plan("document", 0);
  else if (isNew && touched) plan("form", 0);
  else plan(isNew ? "form" : "document", 0);
  arrange();
})();
