/** In a browser, neither the library nor code by hand follows calls across awaits. */
export class AsyncLocalStorage {
  getStore() {
    return undefined;
  }
  run(_, run) {
    return run();
  }
}
