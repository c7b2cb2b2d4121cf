/** The pointer on the Sheet: selecting rows, dragging ends of holds, typing notes in place. */
import { drag } from "../lib/drag.js";
import { gettext } from "../lib/gettext.js";
import { listenForLongPress } from "../lib/longpress.js";

export class SheetPointer {
  /**
   * @param {{sheet: import("./sheet.js").Sheet, shot: import("./model.js").Shot, edits: import("./edits.js").Edits,
   *   transport: import("../lib/transport.js").Transport, selection: import("./selection.js").Selection,
   *   activeCharacter: import("../lib/signal.js").Signal<import("./model.js").Character>, note: HTMLInputElement}} parts
   * @param {import("../lib/scope.js").Scope} scope
   */
  constructor(parts, scope) {
    this.parts = parts;
    const { scroller } = parts.sheet;
    scope.listen(scroller, "pointerdown", (event) => this.press(event));
    scope.listen(scroller, "pointermove", (event) => this.hover(event));
    scope.listen(scroller, "dblclick", (event) => this.write(event));
    listenForLongPress(scroller, scope);
    scope.listen(scroller, "scroll", () => this.placeNote(), { passive: true });
    scope.listen(parts.note, "keydown", (event) => this.noteKey(event));
    scope.listen(parts.note, "blur", () => this.closeNote(true));
    this.noteFrame = -1;
    /** @type {import("./model.js").DeskDocument["notes"][number] | undefined} the note that is there, where one is */
    this.noteAt = undefined;
  }

  hover(/** @type {PointerEvent} */ event) {
    const { sheet, edits } = this.parts;
    sheet.scroller.style.cursor = edits.may && sheet.edgeAt(event.clientX, event.clientY) ? "ns-resize" : "";
  }

  press(/** @type {PointerEvent} */ event) {
    const { sheet, edits, shot, activeCharacter, selection, transport } = this.parts;
    const isBar = event.clientX > sheet.scroller.getBoundingClientRect().left + sheet.scroller.clientWidth;
    const frame = sheet.rowAt(event.clientY);
    if (event.button !== 0 || isBar || frame < 0 || frame >= shot.frames) return;
    const column = sheet.columnAt(event.clientX);
    if (column?.character) activeCharacter.value = column.character;
    const edge = edits.may && !event.shiftKey ? sheet.edgeAt(event.clientX, event.clientY) : null;
    if (edge) this.stretch(event, edge);
    else if (column?.name === "frame") this.scrub(event);
    else if (event.shiftKey && selection.range.value) selection.extend(frame);
    else this.select(event, frame, column?.character ? shot.characters.indexOf(column.character) : -1);
    if (!edge && !event.shiftKey) transport.seek(frame);
  }

  /** Dragging along the frame numbers plays each frame. */
  scrub(/** @type {PointerEvent} */ event) {
    const { sheet, shot, transport, selection } = this.parts;
    selection.clear();
    drag(sheet.scroller, event, (move) => transport.scrub(shot.clampFrame(sheet.rowAt(move.clientY))));
  }

  select(/** @type {PointerEvent} */ event, /** @type {number} */ frame, /** @type {number} */ column) {
    const { sheet, shot, selection } = this.parts;
    selection.clear();
    selection.begin(frame, column);
    drag(sheet.scroller, event, (move) => {
      const row = shot.clampFrame(sheet.rowAt(move.clientY));
      const over = sheet.columnAt(move.clientX)?.character;
      const to = column < 0 || !over ? column : shot.characters.indexOf(over);
      if (row !== frame || to !== column || selection.range.value) selection.extend(row, to);
    });
  }

  /**
   * Drag the end of a hold.
   * @param {PointerEvent} event
   * @param {{character: import("./model.js").Character, edge: number}} found
   */
  stretch(event, found) {
    const { sheet, shot, edits } = this.parts;
    const { character, edge } = found;
    const atStart =
      !character.holds.some((hold) => hold.end === edge) && !character.pins.some((pin) => pin.end === edge);
    let to = edge;
    drag(
      sheet.scroller,
      event,
      (move) => {
        to = Math.max(
          0,
          Math.min(
            shot.frames,
            Math.round((move.clientY - sheet.scroller.getBoundingClientRect().top - sheet.top(0)) / sheet.row),
          ),
        );
        sheet.scroller.style.cursor = "ns-resize";
        sheet.pulled = { character, edge, to };
        sheet.redraw();
      },
      () => {
        sheet.pulled = null;
        if (to !== edge)
          edits.send("stretch", {
            speaker: String(character.id),
            frame: atStart ? edge : edge - 1,
            to,
            at_start: atStart,
          });
        sheet.redraw();
      },
    );
  }

  /** Double click on the notes column: type a note there. */
  write(/** @type {MouseEvent} */ event) {
    const { sheet } = this.parts;
    if (sheet.columnAt(event.clientX)?.name === "notes") this.openNote(sheet.rowAt(event.clientY));
  }

  openNote(/** @type {number} */ frame) {
    const { note, shot, edits } = this.parts;
    if (!edits.may || frame < 0 || frame >= shot.frames) return;
    this.noteFrame = frame;
    this.noteAt = shot.noteOn(frame);
    note.value = this.noteAt?.text || "";
    this.placeNote();
    note.setAttribute("aria-label", gettext("Note beside frame {frame}", { frame: shot.number(frame) }));
    note.hidden = false;
    note.focus();
  }

  /** Keep the field beside its frame when the Sheet scrolls. */
  placeNote() {
    const { sheet, note } = this.parts;
    if (this.noteFrame < 0) return;
    const column = sheet.columns.find((one) => one.name === "notes") || sheet.columns[sheet.columns.length - 1];
    const width = Math.max(150, column.width);
    const top = Math.max(0, Math.min(sheet.top(this.noteFrame) - 2, sheet.height - 24));
    Object.assign(note.style, {
      left: `${Math.max(0, Math.min(column.x, sheet.width - width))}px`,
      top: `${top}px`,
      width: `${width}px`,
    });
  }

  noteKey(/** @type {KeyboardEvent} */ event) {
    if (event.key === "Enter") this.closeNote(true);
    else if (event.key === "Escape") this.closeNote(false);
  }

  closeNote(/** @type {boolean} */ isKept) {
    const { note, edits } = this.parts;
    if (this.noteFrame < 0) return;
    const frame = this.noteFrame;
    this.noteFrame = -1;
    note.hidden = true;
    const [text, own] = [note.value.trim(), this.noteAt];
    if (isKept && text !== (own?.text || "")) edits.send("note", { frame, text, ...(own?.id ? { note: own.id } : {}) });
    this.parts.sheet.scroller.focus({ preventScroll: true });
  }
}
