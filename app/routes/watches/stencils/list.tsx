import { Link } from 'react-router';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { limitsOn } from '#core/judge/rule';
import { formatValue } from '#core/value/format';
import { listStencils, type StencilNow } from '#server/db/watch/stencils';
import { readForm } from '../../../form.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Empty, PageHead, Where } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/list';
import { makeOf } from './actions.server';

export const meta: Route.MetaFunction = () => [{ title: 'Stencils · Shrike' }];

export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  return { stencils: await listStencils(services().pool) };
}

/** Makes a stencil of a rule. */
export async function action({ request, context }: Route.ActionArgs) {
  const person = asks(context, 'make', { kind: 'watch' });
  return makeOf(await readForm(request), person);
}

export default function Stencils({ loaderData, actionData }: Route.ComponentProps) {
  const { locale } = useReader();
  const { stencils } = loaderData;
  const columns: Column<StencilNow>[] = [
    {
      head: 'Stencil',
      className: 'font-medium',
      cell: ({ id, name }) => (
        <Link className="hover:underline" to={`/stencils/${id}`}>
          {name}
        </Link>
      ),
    },
    { head: 'Says', cell: (stencil) => sentenceOf(stencil, locale) },
    { head: 'Made', side: 'right', cell: ({ made }) => (made === 1 ? 'one rule' : `${made} rules`) },
    { head: 'By', wide: true, cell: ({ madeBy }) => madeBy },
  ];
  return (
    <>
      <PageHead>
        <Where within={[{ name: 'Rules', to: '/rules' }]}>
          <h1 className="inline">stencils</h1>
        </Where>
      </PageHead>
      {actionData?.problem == null ? null : (
        <p role="alert" className="pt-3 font-medium text-chestnut">
          {actionData.problem}
        </p>
      )}
      {stencils.length === 0 ? (
        <Empty title="There is no stencil yet">
          A stencil is a rule with blanks, to be put on many watches at once. Open a rule, and make a stencil of it.
        </Empty>
      ) : (
        <Table name="stencils" className="pt-2" columns={columns} rows={stencils} keyOf={({ id }) => id} />
      )}
    </>
  );
}

/** What a stencil says, its blanks as such: `price falls below 8% under its present value`. */
export function sentenceOf({ rule, fields, limits }: StencilNow, locale: string): string {
  const said = describeCondition(
    rule.when,
    namesOf((key) => fields.find((field) => field.key === key)?.label ?? key, locale),
  );
  if (limits.as === 'said') return said;
  const blank = `${limits.percent.replace('-', '')}% ${limits.percent.startsWith('-') ? 'under' : 'over'} its present value`;
  const shown = fields.flatMap(({ key }) => limitsOn(rule, key)).map((limit) => formatValue(limit, locale));
  return shown.reduce((sentence, limit) => sentence.replace(limit, blank), said);
}
