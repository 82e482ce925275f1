/** What a start knows of its surroundings beside the configuration. */
export interface Surroundings {
  environment: Record<string, string | undefined>;
  hasBrowser: boolean;
  asRoot: boolean;
}

/** What is not set, or set so that it had better not be: each as what it means and what to do. */
export function whatIsNotSet({ environment, hasBrowser, asRoot }: Surroundings): string[] {
  const isSet = (name: string) => (environment[name] ?? '') !== '';
  const publicUrl = environment.SHRIKE_PUBLIC_URL ?? '';
  const lines: [boolean, string][] = [
    [
      !isSet('SHRIKE_SMTP_HOST'),
      'The mail server: mail goes to this machine’s own, 127.0.0.1 port 25. Until one answers, every mail waits, for ' +
        'five days. Say yours in SHRIKE_SMTP_HOST, SHRIKE_SMTP_PORT, SHRIKE_SMTP_USER and SHRIKE_SMTP_PASSWORD.',
    ],
    [
      !isSet('SHRIKE_PUBLIC_URL'),
      'The public address: what mails lead to opens on this machine alone. Say in SHRIKE_PUBLIC_URL what readers ' +
        'type, such as https://shrike.example.',
    ],
    [
      !isSet('SHRIKE_MAIL_FROM'),
      'The sender: mail comes from an address that mail servers may refuse. Say yours in SHRIKE_MAIL_FROM, such as ' +
        'Shrike <shrike@shrike.example>, and its domain in SHRIKE_MAIL_DOMAIN.',
    ],
    [
      isSet('SHRIKE_PUBLIC_URL') && publicUrl.startsWith('http:') && !isLocal(publicUrl),
      'Encryption: the public address begins with http, so passwords cross the network in the open. Put a web server ' +
        'with a certificate before Shrike, and say its https address.',
    ],
    [!hasBrowser, 'The browser: pages that are filled in by script cannot be read. Install Debian’s package chromium.'],
    [asRoot, 'A user of its own: Shrike runs as root. It needs no rights: start it as a user who has none.'],
  ];
  return lines.flatMap(([applies, line]) => (applies ? [line] : []));
}

const isLocal = (url: string): boolean =>
  /^https?:\/\/([^/]*\.)?(localhost|127\.\d+\.\d+\.\d+|\[::1\])(:|\/|$)/.test(url);
