import { ensureDebianPackages, FOR_THE_DEMO } from '#scripts/system/debian';
import { benchEditions } from './editions';
import { say } from './figures';
import { benchFormats } from './formats';
import { benchFrames } from './frames';
import { benchJudge } from './judge';
import { benchLists } from './lists';
import { benchPipeline } from './pipeline';
import { benchRendered } from './rendered';
import { benchReports } from './reports';
import { benchRules } from './rules';
import { benchStates } from './states';
import { benchWeb } from './web';

// Every figure is a ratio to the bare work, measured in the same run on the same machine. Without words all of it is
// measured; `npm run bench -- formats rendered` measures parts.

const PARTS: Record<string, (words: string[]) => Promise<void> | void> = {
  editions: benchEditions,
  pipeline: benchPipeline,
  formats: benchFormats,
  frames: benchFrames,
  judge: benchJudge,
  lists: benchLists,
  rendered: benchRendered,
  reports: benchReports,
  rules: benchRules,
  states: benchStates,
  web: benchWeb,
};

ensureDebianPackages(say, FOR_THE_DEMO);
const asked = process.argv.slice(2);
for (const [name, measure] of Object.entries(PARTS))
  if (asked.length === 0 || asked.includes(name)) await measure(asked);
