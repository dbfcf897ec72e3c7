import { type Action, applyMiddleware, combineReducers, legacy_createStore as createStore, type Middleware, type Reducer, type Store } from "redux";

interface Moored extends Action<"moored"> {
  readonly vessel: string;
}
type Event = Moored | Action<"cleared">;

const vessels: Reducer<readonly string[], Event> = (state = [], event) => {
  switch (event.type) {
    case "moored":
      return [...state, event.vessel];
    case "cleared":
      return [];
    default:
      return state;
  }
};
const count = (state: number | undefined = 0, event: Event): number => (event.type === "moored" ? state + 1 : state);

const seen: string[] = [];
const recorder: Middleware = () => (next) => (action) => {
  seen.push((action as Action<string>).type);
  return next(action);
};

const root = combineReducers({ vessels, count });
const store: Store<ReturnType<typeof root>, Event> = createStore(root, undefined, applyMiddleware(recorder));
const unsubscribe = store.subscribe(() => console.log(store.getState().vessels.join()));
store.dispatch({ type: "moored", vessel: "Curlew" });
store.dispatch({ type: "moored", vessel: "Heron" });
unsubscribe();
store.dispatch({ type: "cleared" });
console.log(store.getState().count, seen.join());
