"use strict";
// The form within a page of an application: that page says whose token it uses, and is told what was chosen.
(() => {
  const base = document.body.dataset.base;
  const form = document.getElementById("form");
  const when = form.querySelector("[data-when]");
  const { arrange, read, write, offer, tell, line, clear, at, part } = window.brumeWhen;
  let given = null;
  let origin = null;
  let asked = 0;
  let timer = null;
  let touched = false;

  function answer(message) {
    if (origin) window.parent.postMessage({ brume: "when", ...message }, origin);
  }
  new ResizeObserver(() => answer({ height: document.documentElement.scrollHeight })).observe(document.body);

  async function call(method, path, body) {
    const reply = await fetch(base + "/api/v1" + path, {
      method,
      headers: { "Accept": "application/json", ...(body ? { "Content-Type": "application/json" } : {}), ...(given.token ? { "Authorization": "Bearer " + given.token } : {}) },
      ...(body ? { body: JSON.stringify(body) } : {}),
      credentials: "same-origin"
    });
    const view = await reply.json().catch(() => ({}));
    if (!reply.ok) throw new Error((view.errors || []).map(error => error.detail).join("; ") || view.detail || "the server answered " + reply.status);
    return view;
  }

  async function ask(body) {
    clearTimeout(timer);
    const mine = ++asked;
    let view;
    try {
      view = await call("POST", "/timings", { ...body, ...(given.namespace ? { namespace: given.namespace } : {}) });
    } catch (wrong) {
      if (mine !== asked) return;
      say("This form cannot answer now: " + (wrong instanceof TypeError ? "the server cannot be reached" : wrong.message) + ".");
      answer({ isGood: false, when: null, text: null, words: "", next: [], problems: [{ severity: "error", message: wrong.message }] });
      if (wrong instanceof TypeError) timer = setTimeout(() => ask(body), 3000);
      return;
    }
    if (mine !== asked) return;
    if (body.when && view.timing && view.timing.parts) write(when, view.timing.parts);
    clear(form);
    const list = document.getElementById("problems");
    list.replaceChildren();
    if (body.when && view.timing && view.timing.whyNoParts) list.append(line({ severity: "warning", message: "What was chosen before is kept as it is written unless something is chosen here, since " + view.timing.whyNoParts }));
    view.problems.forEach((problem, i) => {
      // What was not filled in yet is no mistake.
      if (problem.message.startsWith("is missing")) return;
      const place = part(when, problem.field || "when");
      if (!at(place, problem, i)) list.append(line(problem));
    });
    say(view.timing && view.timing.words ? view.timing.words : "Choose when it is to happen.");
    tell(document.getElementById("timing"), view.timing);
    answer({
      isGood: view.isGood,
      when: view.isGood ? view.when : null,
      text: view.isGood ? view.text : null,
      words: view.timing ? view.timing.words : "",
      next: view.timing ? view.timing.next.map(each => ({ instant: each.instant, local: each.local, zone: each.zone })) : [],
      problems: view.problems.map(problem => ({ severity: problem.severity, message: problem.message }))
    });
  }
  function say(text) {
    document.getElementById("words").textContent = text;
  }

  form.addEventListener("submit", event => event.preventDefault());
  for (const kind of ["input", "change"]) {
    form.addEventListener(kind, event => {
      arrange(when);
      touched = true;
      clearTimeout(timer);
      if (given) timer = setTimeout(() => ask({ parts: read(when) }), kind === "change" || event.target.type === "checkbox" ? 0 : 300);
    });
  }

  window.addEventListener("message", async event => {
    if (event.source !== window.parent || !event.data || event.data.brume !== "begin") return;
    origin = event.origin;
    given = event.data;
    if (given.zone) when.querySelector('[data-part="zone"]').value = given.zone;
    if (given.namespace) {
      try {
        const all = await call("GET", "/calendars");
        const own = given.namespace === "main" ? "" : given.namespace + "/";
        offer(when, all.map(each => each.calendar).filter(name => name.startsWith(own) && !name.slice(own.length).includes("/")).map(name => name.slice(own.length)));
      } catch (wrong) { /* Told with the first question. */ }
    }
    if (given.value) ask({ when: given.value });
    else if (touched) ask({ parts: read(when) });
    answer({ height: document.documentElement.scrollHeight });
  });
  arrange(when);
  window.parent.postMessage({ brume: "ready" }, "*");
})();
