import { gettext } from "./lib/gettext.js";
import { sendForm } from "./lib/send.js";

/**
 * The form for sounds and words: accepts dropped files, shows upload progress, and keeps its content after an error. It
 * works as a plain form without this script.
 */
export function readForm() {
  return {
    sending: false,
    percent: 0,
    over: false,
    soundErrors: [],
    wordErrors: [],
    unknown: [],
    failure: "",

    init() {
      this.input = this.$root.querySelector("input[type=file]");
      // If words are typed, choose reading with words.
      this.$root.elements.words.addEventListener("input", (event) => {
        const heard = this.$root.querySelector("input[name=way][value=heard]");
        if (event.target.value.trim() && heard.checked)
          this.$root.querySelector("input[name=way][value=words]").checked = true;
      });
    },
    get percentText() {
      return `${this.percent} %`;
    },
    get soundError() {
      return this.soundErrors.join(" ");
    },
    get wordError() {
      return this.wordErrors.join(" ");
    },
    makeText(name) {
      return gettext("Create {name}", { name });
    },
    chosen() {
      this.soundErrors = [];
    },
    enter() {
      this.over = true;
    },
    leave() {
      this.over = false;
    },
    drop(event) {
      this.over = false;
      if (event.dataTransfer.files.length) {
        this.input.files = event.dataTransfer.files;
        this.chosen();
      }
    },
    /** Create a character from a name in the words; the typed text stays. */
    async make(name) {
      const form = document.querySelector("#cast-form");
      const body = new FormData(form);
      body.set("make", name);
      const answer = await fetch(form.action, { method: "POST", body });
      if (!answer.ok) {
        this.failure = gettext("The character could not be created. Try again.");
        return;
      }
      this.unknown = this.unknown.filter((other) => other !== name);
      if (!this.unknown.length) this.wordErrors = [];
    },
    send() {
      const form = this.$root;
      const large = [...this.input.files].find((file) => file.size > Number(form.dataset.mostBytes));
      if (large) {
        this.soundErrors = [
          gettext("“{name}” is larger than {mostBytes} MB. Split it into parts.", {
            name: large.name,
            mostBytes: Math.round(form.dataset.mostBytes / 1048576),
          }),
        ];
        return;
      }
      this.sending = true;
      this.percent = 0;
      this.soundErrors = this.wordErrors = [];
      this.unknown = [];
      this.failure = "";
      sendForm(form, {
        progress: (percent) => (this.percent = percent),
        done: (next) => window.location.assign(next),
        refused: ({ errors, unknown }) => {
          this.sending = false;
          this.soundErrors = errors.sound || [];
          this.wordErrors = errors.words || [];
          this.unknown = unknown || [];
        },
        failed: (text) => {
          this.sending = false;
          this.failure = text;
        },
      });
    },
  };
}
