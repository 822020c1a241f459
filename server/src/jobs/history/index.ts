// A history: an installation with all that has happened in it, as a file of a few megabytes and without its secrets. The
// demo is one. What is in here reads a whole installation and writes a whole one; nothing of it runs while anybody works.
export { packHistory, historyText, readHistory, type History } from './file.ts';
export { keepHistory } from './keeping.ts';
export { messagesAgain } from './mail.ts';
export { restoreHistory } from './restoring.ts';
