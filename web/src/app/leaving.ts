/** What is still on its way, and would be lost with the page. */
const underWay = new Set<string>();

const ask = (event: BeforeUnloadEvent) => event.preventDefault();

/** The browser asks before the page is closed while anything is on its way. `what` is any name of one's own for it. */
export function setUnderWay(what: string, is: boolean): void {
  if (is) underWay.add(what);
  else underWay.delete(what);
  if (underWay.size > 0) window.addEventListener('beforeunload', ask);
  else window.removeEventListener('beforeunload', ask);
}
