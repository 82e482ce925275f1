/**
 * A mail as it reads: its page in a frame where nothing of it runs. Its links open beside it, unless they lead nowhere
 * yet.
 */
export function MailSheet({
  title,
  html,
  leads = true,
  className,
}: {
  title: string;
  html: string;
  leads?: boolean;
  className: string;
}) {
  return (
    <iframe
      title={title}
      sandbox={leads ? 'allow-popups allow-popups-to-escape-sandbox' : ''}
      srcDoc={leads ? html.replace('<head>', '<head><base target="_blank">') : html}
      className={`border border-rule bg-white ${className}`}
    />
  );
}
