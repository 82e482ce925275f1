import { DayPicker } from 'react-day-picker';
import { useLocale } from './locale';

const CLASSES = {
  months: 'relative',
  month_caption: 'pb-2 font-serif text-head font-medium',
  nav: 'absolute top-0 right-0 flex gap-1',
  button_previous: 'size-7 text-second hover:text-ink [&>svg]:mx-auto [&>svg]:size-4 [&>svg]:fill-current',
  button_next: 'size-7 text-second hover:text-ink [&>svg]:mx-auto [&>svg]:size-4 [&>svg]:fill-current',
  weekday: 'size-8 text-glance font-normal text-third',
  day: 'p-0 text-center',
  day_button: 'size-8 hover:underline',
  today: 'font-semibold text-chestnut',
  selected: '[&>button]:bg-ink [&>button]:text-page',
  outside: 'text-third',
};

const dayAt = (day: string): Date | undefined => {
  const [year, month, date] = day.split('-').map(Number);
  return year === undefined || month === undefined || date === undefined ? undefined : new Date(year, month - 1, date);
};

const dayOf = (date: Date): string =>
  [date.getFullYear(), date.getMonth() + 1, date.getDate()].map((part) => String(part).padStart(2, '0')).join('-');

/** On which day a week begins where a locale is spoken (0 is Sunday); on Monday where the browser does not know. */
function firstDayOf(locale: string): 0 | 1 | 2 | 3 | 4 | 5 | 6 {
  const known = new Intl.Locale(locale) as Intl.Locale & { getWeekInfo?: () => { firstDay: number } };
  return ((known.getWeekInfo?.().firstDay ?? 1) % 7) as 0;
}

/** A month to choose a day from; days are as 2026-12-31. */
export function Calendar({ day, onChoose }: { day: string; onChoose: (day: string) => void }) {
  const locale = useLocale();
  const say = (options: Intl.DateTimeFormatOptions) => (date: Date) =>
    new Intl.DateTimeFormat(locale, options).format(date);
  const chosen = dayAt(day);
  return (
    <DayPicker
      mode="single"
      required
      showOutsideDays
      autoFocus
      classNames={CLASSES}
      weekStartsOn={firstDayOf(locale)}
      formatters={{
        formatCaption: say({ month: 'long', year: 'numeric' }),
        formatWeekdayName: say({ weekday: 'short' }),
      }}
      labels={{
        labelDayButton: (date, { today, selected }) =>
          `${say({ weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' })(date)}` +
          `${today ? ', today' : ''}${selected ? ', chosen' : ''}`,
        labelGrid: say({ month: 'long', year: 'numeric' }),
        labelWeekday: say({ weekday: 'long' }),
      }}
      selected={chosen}
      defaultMonth={chosen ?? new Date()}
      onSelect={(date) => onChoose(dayOf(date))}
    />
  );
}
