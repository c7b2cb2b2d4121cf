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
      const request = new XMLHttpRequest();
      this.sending = true;
      this.percent = 0;
      this.soundErrors = this.wordErrors = [];
      this.failure = "";
      request.open("POST", form.action);
      request.setRequestHeader("Accept", "application/json");
      request.responseType = "json";
      request.upload.addEventListener("progress", (event) => {
        if (event.lengthComputable) this.percent = Math.round((100 * event.loaded) / event.total);
      });
      request.addEventListener("load", () => this.answered(request));
      request.addEventListener("error", () => this.failed("The connection was lost. Nothing was sent; try again."));
      request.send(new FormData(form));
    },
    answered(request) {
      if (request.status === 200 && request.response) {
        window.location.assign(request.response.next);
        return;
      }
      this.sending = false;
      if (request.status === 422 && request.response) {
        this.soundErrors = request.response.errors.sound || [];
        this.wordErrors = request.response.errors.words || [];
      } else if (request.status === 413 || request.status === 400) {
        this.failed("The file is too large for this site.");
      } else {
        this.failed("That did not work. What you typed is still here; try again.");
      }
    },
    failed(text) {
      this.sending = false;
      this.failure = text;
    },
  };
}
