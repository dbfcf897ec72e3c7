export const tape = [];
export function speak(channel, words, spoken) {
    setTimeout(() => {
        if (channel !== 12) {
            spoken(new Error(`channel ${channel} is not ours`));
            return;
        }
        tape.push(`[${channel}] ${words.join(" ")}`);
        spoken(null, words.length / 2);
    }, 2);
}
