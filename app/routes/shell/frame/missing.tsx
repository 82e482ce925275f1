import { Empty, PageHead } from '../../../ui/page';
import { asks } from '../../../session.server';
import type { Route } from './+types/missing';
import { SearchAndNew } from './search';

export function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'briefing' });
  return Response.json(null, { status: 404 });
}

export const meta = () => [{ title: 'Not here · Shrike' }];

export default function Missing() {
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Not here</h1>
      </PageHead>
      <Empty title="There is no such page">
        It may have been deleted, or the address was cut short. Search for it above, or start from the briefing.
      </Empty>
    </>
  );
}
