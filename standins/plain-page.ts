import { html, type Markup } from '#core/tell/markup';

/** A plain page for the stage and the mail room: tools beside the product, with no look of their own. */
export function plainPage(title: string, content: Markup): Markup {
  return html`<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${title}</title><style>
body{font:15px/1.45 system-ui,sans-serif;margin:24px auto;max-width:960px;padding:0 20px;color:#222;background:#fff}
table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:5px 10px 5px 0;border-bottom:1px solid #ddd;vertical-align:middle}
iframe{width:100%;height:640px;border:1px solid #bbb;background:#fff}pre{white-space:pre-wrap;overflow-wrap:anywhere;border:1px solid #ddd;padding:12px}
form{display:inline-flex;gap:6px;align-items:center;margin:0}input[type=text]{width:80px;font:inherit}button,select{font:inherit}.on{font-weight:700}
</style></head><body>${content}</body></html>`;
}
