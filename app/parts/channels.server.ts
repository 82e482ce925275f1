import { fail, ok, type Result } from '#core/result';
import { readPhone, CHANNELS, channelsFault, type Reached, type Channel, type Channels } from '#core/tell/channels';
import { WEIGHTS } from '#core/tell/definition';
import { webAddress } from '#server/fetch/web-address';
import { textIn } from '../form.server';

const LONGEST_ADDRESS = 2_000;

/** Reads the fields that say by which routes somebody hears; the error is a sentence. */
export function readChannels(form: FormData, hasKey: boolean): Result<Reached, string> {
  const [phoneSaid, webhookSaid] = [textIn(form, 'phone').trim(), textIn(form, 'webhook').trim()];
  const phone = phoneSaid === '' ? null : readPhone(phoneSaid);
  if (phoneSaid !== '' && phone === null) return fail('Write the phone number with its country code: +44 7700 900123.');
  if (webhookSaid !== '' && (webhookSaid.length > LONGEST_ADDRESS || webAddress(webhookSaid) === null))
    return fail('A webhook is a web address that begins with https:// or http://.');
  if (webhookSaid !== '' && !hasKey)
    return fail('Posts are signed with a key made of SHRIKE_SECRET_KEY, and none is set.');
  const routes = channelsIn(textIn(form, 'routes'));
  if (routes === null) return fail('Which routes are chosen cannot be read. Load the page again.');
  const reached = { phone, webhook: webhookSaid === '' ? null : webhookSaid, routes };
  const fault = channelsFault(reached);
  return fault === null ? ok(reached) : fail(fault);
}

function channelsIn(text: string): Channels | null {
  try {
    const given = JSON.parse(text) as unknown;
    if (typeof given !== 'object' || given === null) return null;
    const chosen = WEIGHTS.map((weight): [string, Channel[]] => {
      const list = (given as Record<string, unknown>)[weight];
      return [weight, CHANNELS.filter((channel) => Array.isArray(list) && list.includes(channel))];
    });
    return Object.fromEntries(chosen) as Channels;
  } catch {
    return null;
  }
}
