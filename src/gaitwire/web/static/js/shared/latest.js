// What is asked for often, of which only the newest answer counts.

/**
 * One at a time, the latest: however often it is asked for while one is under way, it is done once more after that.
 * So an older answer never comes over a newer one, and none is left out.
 *
 * @param {() => Promise<void>} work
 */
export function latest(work) {
  let stale = false, running = null;
  async function untilFresh() {
    while (stale) { stale = false; await work(); }
  }
  return {
    ask() {
      stale = true;
      running ??= untilFresh().finally(() => { running = null; });
      return running;
    },
    get busy() { return running !== null; },
  };
}
