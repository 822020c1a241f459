/** Ids that the scenario's sequences refer to. */
export interface DemoIds {
  letters: string;
  tomasz: string;
  guide: string;
  pictures: { cover: string; papers: string; kits: string };
  offers: { kit: string; cart: string; look: string };
}
