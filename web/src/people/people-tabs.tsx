import { RoomTabs } from '../ui/tabs.tsx';

/** The rooms of People. */
export const PeopleTabs = () => (
  <RoomTabs
    name="People"
    rooms={[
      ['/people', 'Everyone'],
      ['/people/attributes', 'Attributes, points'],
      ['/people/segments', 'Segments'],
      ['/people/lists', 'Lists and tags'],
      ['/people/import', 'Import'],
      ['/people/no-mail', 'No mail'],
      ['/people/events', 'Events and keys'],
    ]}
  />
);
