/** The heads of the lanes: a track's name and mute state, a character's name and number key. */
import { gettext } from "../lib/gettext.js";

export class Heads {
  /**
   * @param {HTMLElement} root
   * @param {import("./model.js").SoundShot} shot
   * @param {SendEdit} send
   */
  constructor(root, shot, send) {
    this.root = root;
    this.shot = shot;
    this.send = send;
  }

  show(/** @type {import("./layout.js").Lane[]} */ lanes) {
    const { shot } = this;
    const heads = lanes.map((lane) => {
      const head = document.createElement("div");
      head.className = `head head-${lane.kind}`;
      head.style.top = `${lane.top}px`;
      head.style.height = `${lane.height}px`;
      if (lane.kind === "track")
        this.track(head, /** @type {import("./model.js").Track} */ (shot.tracks.find((track) => track.id === lane.id)));
      if (lane.kind === "words") head.textContent = gettext("words");
      if (lane.kind === "turns") {
        const at = shot.characters.findIndex((character) => character.id === lane.id);
        const { name, ink } = shot.characters[at];
        const swatch = document.createElement("span");
        swatch.className = `ink ink-${ink}`;
        const key = document.createElement("kbd");
        key.textContent = String(at + 1);
        key.title = gettext("Hold {value} while it plays, as long as {name} speaks", { value: at + 1, name });
        head.append(swatch, name, key);
      }
      return head;
    });
    this.root.replaceChildren(...heads);
  }

  track(/** @type {HTMLElement} */ head, /** @type {import("./model.js").Track} */ track) {
    const name = document.createElement("strong");
    name.textContent = track.name;
    const kind = document.createElement("span");
    kind.className = "quiet";
    kind.textContent = track.kind === "voice" ? gettext("Voice, read") : gettext("Not read");
    const mute = document.createElement("button");
    mute.type = "button";
    mute.textContent = gettext("Mute");
    mute.setAttribute("aria-pressed", String(track.muted));
    mute.title = track.muted
      ? gettext("Unmute {name}", { name: track.name })
      : gettext("Mute {name} (its words stay)", { name: track.name });
    mute.setAttribute("aria-label", mute.title);
    mute.addEventListener("click", () => this.send("mute_track", { track: track.id, muted: !track.muted }));
    head.append(name, kind, mute);
    if (this.shot.clips.some((clip) => clip.track === track.id)) return;
    const drop = document.createElement("button");
    drop.type = "button";
    drop.textContent = gettext("remove");
    drop.addEventListener("click", () => this.send("remove_track", { track: track.id }));
    head.append(drop);
  }
}
