import { WorkLink } from '@/ui/work-link';
import { Brand } from './brand';
import { topBarMessages as messages } from './messages';
import { PersonMenu } from './person-menu';
import { ThemeSwitch } from './theme-switch';

const PLACES = [
  { id: 'live', name: messages.lines },
  { id: 'specs', name: messages.specs },
  { id: 'receivers', name: messages.receivers },
] as const;
/** What is looked after now and then: on the bars of jobs there is no room for it. */
const UPKEEP = [...PLACES, { id: 'storage', name: messages.storage }] as const;

type Place = (typeof UPKEEP)[number]['id'] | 'people';

/** The bar above whatever is not a stage of a job. */
export function TopBar({ current }: { current?: Place }) {
  return (
    <header className="flex items-center justify-between bg-bar px-4 py-2 text-bar-text">
      <Brand />
      <span className="flex items-center gap-4">
        <PlaceLinks current={current} places={UPKEEP} />
        <PersonMenu isAtPeople={current === 'people'} />
        <ThemeSwitch />
      </span>
    </header>
  );
}

/** To what all jobs share. */
export function PlaceLinks({
  current,
  places = PLACES,
}: {
  current?: Place | undefined;
  places?: readonly { id: Place; name: string }[];
}) {
  return places.map(({ id, name }) => (
    <WorkLink
      key={id}
      href={`/${id}`}
      aria-current={id === current ? 'page' : undefined}
      className={`text-sm font-semibold hover:text-on-action ${id === current ? 'text-on-action' : 'text-bar-text'}`}
    >
      {name}
    </WorkLink>
  ));
}
