/** Returns a function that shows progress on a terminal, in one temporary line; `undefined` elsewhere. */
export function progressOn(stream: NodeJS.WriteStream) {
  let shown = 0;
  return {
    show: (done: number, all: number) => {
      const now = Date.now();
      if (!stream.isTTY || now - shown < 100) return;
      shown = now;
      stream.write(`\r${done} of ${all} files\x1b[K`);
    },
    clear: () => {
      if (stream.isTTY) stream.write("\r\x1b[K");
    },
  };
}
