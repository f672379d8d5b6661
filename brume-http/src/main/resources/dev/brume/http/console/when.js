"use strict";
// The parts of the sentence that says when: read from their fields, put into them, and told in words.
(() => {
  const shown = (root, part) => {
    const field = root.querySelector('[data-part="' + part + '"]');
    return field && !field.closest("[hidden]");
  };

  // Only what belongs to the pattern and the days that are chosen is there.
  function arrange(root) {
    const pattern = root.querySelector('[data-part="pattern"]').value;
    const days = root.querySelector('[data-part="days"]').value;
    for (const part of root.querySelectorAll("[data-for], [data-days]")) {
      const ofPattern = !part.dataset.for || part.dataset.for.split(" ").includes(pattern);
      const ofDays = !part.dataset.days || part.dataset.days.split(" ").includes(days);
      part.hidden = !(ofPattern && ofDays);
    }
    const off = root.querySelector("[data-off]");
    if (off && !off.hidden) off.hidden = !root.querySelector('[data-part="notOn"] input:checked');
    const which = root.querySelector('[data-part="which"]');
    for (const option of which.options) option.disabled = days === "workingDayOfMonth" && !["first", "last"].includes(option.value);
    if (which.selectedOptions.length === 0 || which.selectedOptions[0].disabled) which.value = "first";
  }

  function read(root) {
    const parts = {};
    for (const field of root.querySelectorAll("[data-part]")) {
      const name = field.dataset.part;
      if (!shown(root, name)) continue;
      if (field.tagName === "FIELDSET") {
        const ticked = [...field.querySelectorAll("input:checked")].map(box => box.value);
        if (ticked.length > 0 || name === "weekdays") parts[name] = ticked;
      } else if (field.value.trim() !== "") {
        parts[name] = field.value.trim();
      }
    }
    if (!parts.notOn) delete parts.ifDayOff;
    return parts;
  }

  function tick(field, value, checked) {
    const label = document.createElement("label");
    const box = document.createElement("input");
    box.type = "checkbox";
    box.name = field.dataset.part;
    box.value = value;
    box.checked = checked;
    label.append(box, " " + value);
    field.append(label);
    field.querySelectorAll("[data-none]").forEach(hint => hint.remove());
  }
  // Calendars whose days may be off.
  function offer(root, calendars) {
    const field = root.querySelector('[data-part="notOn"]');
    const known = [...field.querySelectorAll("input")].map(box => box.value);
    for (const calendar of calendars) if (!known.includes(calendar)) tick(field, calendar, false);
  }

  function write(root, parts) {
    for (const field of root.querySelectorAll("[data-part]")) {
      const value = parts[field.dataset.part];
      if (field.tagName === "FIELDSET") {
        for (const box of field.querySelectorAll("input")) box.checked = (value || []).includes(box.value);
        const known = [...field.querySelectorAll("input")].map(box => box.value);
        for (const other of (value || []).filter(one => !known.includes(one))) tick(field, other, true);
      } else if (value !== undefined) {
        field.value = value;
      } else if (field.tagName !== "SELECT" && field.dataset.part !== "zone") {
        field.value = "";
      } else if (["gap", "fold"].includes(field.dataset.part)) {
        field.value = "";
      }
    }
    arrange(root);
  }

  const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
  const day = date => DAYS[new Date(date + "T00:00:00Z").getUTCDay()] + " " + date;
  const moment = local => day(local.slice(0, 10)) + " " + local.slice(11, 19).replace(/:00$/, "");
  const NOTES = {
    MOVED: "moved",
    MERGED: "two fall together",
    AFTER_GAP: "the clocks skip its time",
    FIRST_OF_FOLD: "its time comes twice, this is the first",
    SECOND_OF_FOLD: "its time comes twice, this is the second",
    SPREAD: "spread",
    ESTIMATED: "estimated"
  };

  function element(name, text, css) {
    const made = document.createElement(name);
    made.textContent = text;
    if (css) made.className = css;
    return made;
  }

  // What is wrong, with the button that leads to its line, if it has one.
  function line(problem, go) {
    const item = element("li", "");
    item.append(element("span", problem.severity, "severity s-" + (problem.severity === "error" ? "problem" : "warning")), " ");
    if (problem.line && go) {
      const to = element("button", "line " + problem.line, "to-line");
      to.type = "button";
      to.addEventListener("click", () => go(problem.line));
      item.append(to, " ");
    }
    item.append(problem.message);
    return item;
  }
  function clear(root) {
    root.querySelectorAll(".wrong").forEach(part => part.remove());
    root.querySelectorAll("[aria-invalid], [aria-describedby]").forEach(part => { part.removeAttribute("aria-invalid"); part.removeAttribute("aria-describedby"); });
  }
  // Puts what is wrong at the field that it belongs to; false if there is none to be seen.
  function at(field, problem, i) {
    if (!field || field.closest("[hidden]")) return false;
    const wrong = document.createElement("span");
    wrong.className = "wrong " + problem.severity;
    wrong.id = "wrong-" + i;
    wrong.append(...line(problem).childNodes);
    if (field.tagName === "FIELDSET") field.append(wrong); else field.closest("label").after(wrong);
    if (problem.severity === "error" && field.tagName !== "FIELDSET") field.setAttribute("aria-invalid", "true");
    field.setAttribute("aria-describedby", ((field.getAttribute("aria-describedby") || "") + " " + wrong.id).trim());
    return true;
  }
  const part = (root, field) => root.querySelector('[data-part="' + (field.split("/")[1] || "pattern") + '"]');

  // The next occurrences, the clock changes of the coming year, and the days off with where they go.
  function tell(into, timing) {
    into.replaceChildren();
    if (!timing) return;
    if (timing.written.length > 0) into.append(element("p", "Written as " + timing.written.join("  and  ") + ", by the clocks of " + timing.zone + ".", "hint"));
    if (timing.next.length > 0) {
      into.append(element("h3", "Next (" + timing.zone + ")"));
      const list = document.createElement("ol");
      list.className = "next";
      for (const occurrence of timing.next) {
        const line = element("li", moment(occurrence.local));
        for (const note of occurrence.notes) {
          line.append(" ", element("span", (NOTES[note] || note) + (note === "MOVED" ? " from " + day(occurrence.nominal.slice(0, 10)) : note === "AFTER_GAP" ? ", " + occurrence.nominal.slice(11, 16) : ""), "flag"));
        }
        list.append(line);
      }
      into.append(list);
    }
    if (timing.daysOff.length > 0) {
      into.append(element("h3", "Days off in the coming year"));
      const list = document.createElement("ul");
      for (const off of timing.daysOff) {
        list.append(element("li", day(off.date) + " (" + off.calendar + "): " + (off.movedTo ? "comes on " + day(off.movedTo) : "left out")));
      }
      into.append(list);
    }
    if (timing.turns.length > 0 && timing.words !== "") {
      into.append(element("h3", "When the clocks change"));
      const list = document.createElement("ul");
      for (const turn of timing.turns) {
        const size = Math.abs(turn.forwardSeconds) % 3600 === 0 ? Math.abs(turn.forwardSeconds) / 3600 + " h" : Math.abs(turn.forwardSeconds) / 60 + " min";
        list.append(element("li", moment(turn.local) + ", " + (turn.forwardSeconds > 0 ? "forward by " : "back by ") + size + ": " + turn.says + "."));
      }
      into.append(list);
    }
  }

  window.brumeWhen = { arrange, read, write, offer, tell, element, moment, line, clear, at, part };
})();
