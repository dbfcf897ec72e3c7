import { createStore, type StateCreator, type StoreApi } from "zustand/vanilla";
import { persist, createJSONStorage, subscribeWithSelector } from "zustand/middleware";

interface Board {
  readonly notices: readonly string[];
  readonly post: (text: string) => void;
}

const creator: StateCreator<Board> = (set, get) => ({
  notices: [],
  post: (text) => set({ notices: [...get().notices, text] }),
});

const board: StoreApi<Board> = createStore(creator);
const stop = board.subscribe((state, before) => console.log(before.notices.length, state.notices.length));
board.getState().post("fog");
stop();
board.setState({ notices: [] });
console.log(board.getState().notices.length, board.getInitialState().notices.length);

const memory = new Map<string, string>();
const kept = createStore<{ count: number }>()(
  persist(() => ({ count: 1 }), {
    name: "kept",
    storage: createJSONStorage(() => ({
      getItem: (name) => memory.get(name) ?? null,
      setItem: (name, value) => void memory.set(name, value),
      removeItem: (name) => void memory.delete(name),
    })),
  }),
);
kept.setState({ count: 2 });
console.log(memory.get("kept"));
const watched = createStore<{ fog: boolean }>()(subscribeWithSelector((): { fog: boolean } => ({ fog: false })));
watched.subscribe((state) => state.fog, (fog) => console.log("fog", fog));
watched.setState({ fog: true });
