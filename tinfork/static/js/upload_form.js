import { gettext } from "./lib/gettext.js";
import { sendForm } from "./lib/send.js";

/** The form for pictures: chosen or dropped files are uploaded at once, with progress. */
export function uploadForm() {
  return {
    sending: false,
    percent: 0,
    over: false,
    failure: "",

    get percentText() {
      return `${this.percent} %`;
    },
    enter() {
      this.over = true;
    },
    leave() {
      this.over = false;
    },
    drop(event) {
      this.over = false;
      if (!event.dataTransfer.files.length) return;
      this.$root.querySelector("input[type=file]").files = event.dataTransfer.files;
      this.send();
    },
    /** The form can also be sent without a file. */
    sendAnyway() {
      this.send(true);
    },
    send(anyway = false) {
      const form = this.$root;
      const { files } = form.querySelector("input[type=file]");
      if (this.sending || (!files.length && anyway !== true)) return;
      const large = [...files].find((file) => file.size > Number(form.dataset.mostBytes));
      if (files.length > Number(form.dataset.mostFiles)) {
        this.failed(
          gettext("You chose {count} files; the limit is {mostFiles} at once. Nothing was sent.", {
            count: files.length,
            mostFiles: form.dataset.mostFiles,
          }),
        );
        return;
      }
      if (large) {
        this.failed(
          gettext("“{name}” is larger than {mostBytes} MB. Save it smaller.", {
            name: large.name,
            mostBytes: Math.round(form.dataset.mostBytes / 1048576),
          }),
        );
        return;
      }
      this.sending = true;
      this.percent = 0;
      this.failure = "";
      sendForm(form, {
        progress: (percent) => (this.percent = percent),
        done: (next) => window.location.assign(next),
        refused: ({ error }) => this.failed(error),
        failed: (text) => this.failed(text),
      });
    },
    failed(text) {
      this.sending = false;
      this.failure = text;
      // Allow choosing the same files again.
      this.$root.querySelector("input[type=file]").value = "";
    },
  };
}
