"use strict";
// For pages of applications: <brume-when src="https://HOST/brume" token="..." namespace="ferry" zone="Europe/Lisbon" name="when"></brume-when>
// asks when something shall happen. It is a field of the form around it, whose value is the schedule as JSON, as a definition has it under when; each
// choice is told by an event "choose" whose detail has when, text, words, next, problems and isGood.
(() => {
  const source = new URL(document.currentScript.src);
  const home = source.href.replace(/\/assets\/embed\.js.*$/, "");

  class BrumeWhen extends HTMLElement {
    static formAssociated = true;
    #internals = this.attachInternals();
    #frame = null;
    #heard = event => this.#hear(event);
    #chosen = null;

    get value() { return this.#chosen && this.#chosen.when ? JSON.stringify(this.#chosen.when) : ""; }
    get name() { return this.getAttribute("name"); }
    /** What was chosen last, with its words and next occurrences; null before. */
    get choice() { return this.#chosen; }

    connectedCallback() {
      const base = (this.getAttribute("src") || home).replace(/\/$/, "");
      this.#frame = document.createElement("iframe");
      this.#frame.src = base + "/embed/when";
      this.#frame.title = this.getAttribute("title") || "When shall this happen?";
      this.#frame.style.cssText = "border:0;width:100%;height:26rem;display:block";
      this.#frame.referrerPolicy = "no-referrer";
      window.addEventListener("message", this.#heard);
      this.append(this.#frame);
      this.#internals.setValidity({ valueMissing: true }, "Choose when it shall happen.", this.#frame);
    }
    disconnectedCallback() {
      window.removeEventListener("message", this.#heard);
      this.#frame.remove();
    }
    #hear(event) {
      if (event.source !== this.#frame.contentWindow || event.origin !== new URL(this.#frame.src, location.href).origin) return;
      const said = event.data || {};
      if (said.brume === "ready") {
        let value = null;
        try { value = this.hasAttribute("value") ? JSON.parse(this.getAttribute("value")) : null; } catch (none) { console.error("brume-when: its value is no JSON", none); }
        this.#frame.contentWindow.postMessage({ brume: "begin", token: this.getAttribute("token"), namespace: this.getAttribute("namespace"), zone: this.getAttribute("zone"), value }, event.origin);
      } else if (said.brume === "when" && said.height) {
        this.#frame.style.height = Math.min(said.height + 8, 2000) + "px";
      } else if (said.brume === "when") {
        const { brume, ...choice } = said;
        this.#chosen = choice;
        this.#internals.setFormValue(this.value);
        if (choice.isGood) this.#internals.setValidity({});
        else this.#internals.setValidity({ customError: true }, (choice.problems.find(problem => problem.severity === "error") || { message: "Choose when it shall happen." }).message, this.#frame);
        this.dispatchEvent(new CustomEvent("choose", { bubbles: true, detail: choice }));
      }
    }
  }
  customElements.define("brume-when", BrumeWhen);
})();
