import { DayPicker } from 'react-day-picker';
import 'react-day-picker/style.css';

const local = (day: string) => new Date(`${day}T00:00:00`);
const written = (d: Date) =>
  `${String(d.getFullYear()).padStart(4, '0')}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`;

/** A month to pick a day from. Loaded when it is opened. */
export default function Month({ day, choose }: { day: string; choose: (day: string) => void }) {
  const chosen = day ? local(day) : undefined;
  return (
    <DayPicker
      mode="single"
      required
      autoFocus
      weekStartsOn={1}
      {...(chosen ? { selected: chosen, defaultMonth: chosen } : { selected: undefined })}
      onSelect={(d) => choose(written(d))}
      className="month"
    />
  );
}
