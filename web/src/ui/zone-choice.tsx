import { placeWords, zoneNames } from '@ascenso/core';
import { Choice } from './choice.tsx';

/** "Lisbon · Europe": the place first, since that is what one knows; what has no place goes by its name. */
const zones = zoneNames
  .map((z) => ({
    value: z,
    label: z.includes('/') ? `${placeWords(z)} · ${z.slice(0, z.lastIndexOf('/')).replaceAll('_', ' ')}` : z,
  }))
  .sort((a, b) => a.label.localeCompare(b.label));

/** A time zone, found by typing its place. `none` is what stands for nobody’s: its words become a choice of their own. */
export function ZoneChoice({
  label = 'In the time of',
  zone,
  save,
  none,
}: {
  label?: string;
  zone: string;
  save: (zone: string) => void;
  none?: string;
}) {
  return <Choice label={label} value={zone} choose={save} of={none ? [{ value: '', label: none }, ...zones] : zones} />;
}
