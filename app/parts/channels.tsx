import { useState } from 'react';
import { CHANNEL, CHANNELS, type Reached } from '#core/tell/channels';
import { WEIGHTS } from '#core/tell/definition';
import { TextField, Tick } from '../ui/field';

/**
 * By which routes somebody hears of what: fields of a form, read by `readRoutes`. `secret` is what posts to the webhook
 * are signed with.
 */
export function ChannelsFields({ routes: kept, phone, webhook, secret }: Reached & { secret: string | null }) {
  const [routes, setRoutes] = useState(kept);
  return (
    <fieldset className="flex flex-col gap-2.5 border-t border-hairline pt-2.5">
      <legend className="sr-only">Routes</legend>
      <input type="hidden" name="routes" value={JSON.stringify(routes)} />
      <TextField
        label="Phone, for short texts"
        name="phone"
        type="tel"
        defaultValue={phone ?? ''}
        hint="with its country code, as +44 7700 900123"
      />
      <TextField
        label="Webhook, an address that takes posts"
        name="webhook"
        inputMode="url"
        defaultValue={webhook ?? ''}
      />
      {secret === null || webhook === null ? null : (
        <details className="text-glance text-third">
          <summary>What posts to it are signed with</summary>
          <code className="block break-all text-ink">{secret}</code>
        </details>
      )}
      <table className="text-read">
        <thead>
          <tr className="text-left text-glance text-third">
            <th className="font-normal">Alerts of weight</th>
            {CHANNELS.map((channel) => (
              <th key={channel} className="font-normal">
                {CHANNEL[channel].label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {WEIGHTS.map((weight) => (
            <tr key={weight}>
              <th scope="row" className="text-left font-normal">
                {weight}
              </th>
              {CHANNELS.map((channel) => (
                <td key={channel} data-channel={`${weight} ${channel}`}>
                  <Tick
                    checked={routes[weight].includes(channel)}
                    onChange={(on) =>
                      setRoutes({
                        ...routes,
                        [weight]: CHANNELS.filter((each) => (each === channel ? on : routes[weight].includes(each))),
                      })
                    }
                  >
                    <span className="sr-only">
                      {weight} by {CHANNEL[channel].label}
                    </span>
                  </Tick>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-glance text-third">Digests without an alert go like what is usual.</p>
    </fieldset>
  );
}
