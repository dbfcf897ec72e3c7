/** Speaks words on a channel; calls back when they are spoken, with an error on a channel that is not ours. */
export declare function speak(channel: number, words: string[], spoken: (error: Error | null, seconds?: number) => void): void;
/** What was spoken, for the log. */
export declare const tape: string[];
