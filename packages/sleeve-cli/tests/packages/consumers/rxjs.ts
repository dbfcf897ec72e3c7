import { BehaviorSubject, combineLatest, from, type Observable, of, Subject, type Subscription, throwError } from "rxjs";
import { catchError, debounceTime, filter, map, mergeMap, scan, take, toArray } from "rxjs/operators";

interface Reading {
  readonly station: string;
  readonly metres: number;
}

const readings = new Subject<Reading>();
const fog = new BehaviorSubject<boolean>(false);

function high(source: Observable<Reading>, limit: number): Observable<string> {
  return source.pipe(
    filter(({ metres }) => metres > limit),
    map(({ station, metres }) => `${station} ${metres}`),
  );
}

const subscription: Subscription = high(readings.asObservable(), 3).subscribe({
  next: (text) => console.log(text),
  complete: () => console.log("complete"),
});
combineLatest([readings, fog])
  .pipe(take(2))
  .subscribe(([{ station }, isFog]) => console.log(station, isFog));
readings.next({ station: "quay", metres: 3.4 });
fog.next(true);
readings.next({ station: "bar", metres: 1 });
console.log(fog.value, fog.getValue());
readings.complete();
subscription.unsubscribe();

from([1, 2, 3])
  .pipe(scan((sum, each) => sum + each, 0), toArray())
  .subscribe((sums) => console.log(sums.join()));
of("a").pipe(mergeMap(() => throwError(() => new Error("silent"))), catchError((error: Error) => of(error.message))).subscribe(console.log);
of(1).pipe(debounceTime(1)).subscribe((value) => console.log("late", value));
