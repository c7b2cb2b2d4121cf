/** The list of a take's pieces: ticks all or none. */
export function pieces() {
  return {
    all(event) {
      for (const box of this.$root.querySelectorAll("input[name=piece]")) box.checked = event.target.checked;
    },
  };
}
