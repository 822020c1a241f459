/** What comes later than this (ms) after it happened is kept, but starts nothing: its email would speak of old news. */
export const TOO_LATE = 24 * 60 * 60_000;
