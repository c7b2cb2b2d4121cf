import { sendForm } from "./lib/send.js";

/**
 * The form that brings a sound and its words: drop a file on it, see it leave, keep everything on an error.
 * Works as a plain form without this.
 */
export function readForm() {
  return {
    fileName: "",
    sending: false,
    percent: 0,
    over: false,
    soundErrors: [],
    wordErrors: [],
    failure: "",

    init() {
      this.input = this.$root.querySelector("input[type=file]");
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
    chosen() {
      this.fileName = this.input.files.length ? this.input.files[0].name : "";
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
    send() {
      const form = this.$root;
      const [file] = this.input.files;
      if (file && file.size > Number(form.dataset.mostBytes)) {
        this.soundErrors = [`“${file.name}” is larger than ${Math.round(form.dataset.mostBytes / 1048576)} MB. Cut it into parts.`];
        return;
      }
      this.sending = true;
      this.percent = 0;
      this.soundErrors = this.wordErrors = [];
      this.failure = "";
      sendForm(form, {
        progress: (percent) => (this.percent = percent),
        done: (next) => window.location.assign(next),
        refused: ({ errors }) => {
          this.sending = false;
          this.soundErrors = errors.sound || [];
          this.wordErrors = errors.words || [];
        },
        failed: (text) => {
          this.sending = false;
          this.failure = text;
        },
      });
    },
  };
}
