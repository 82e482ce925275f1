import { footer, menu, never, only, plainly, site, type Site } from '../page';

// What is published of money, weather, traffic and games, and what authorities say.

const rates = site(
  {
    kind: 'exchange rates',
    pick: 'tr.usd td.buy',
    was: ['1.0842', ''],
    is: ['1.0915', ''],
    truth: '1.0915',
    html:
      '<html lang="en"><head><title>Exchange rates</title></head><body><h1>Exchange rates</h1><p>Base currency: ' +
      '<b>EUR</b></p><table class="rates"><thead><tr><th>Currency</th><th>We buy</th><th>We ' +
      'sell</th></tr></thead><tbody><tr class="usd"><td>US dollar</td><td class="buy">{v}</td><td ' +
      'class="sell">1.1240</td></tr><tr class="gbp"><td>Pound sterling</td><td class="buy">0.8420</td><td ' +
      'class="sell">0.8710</td></tr><tr class="chf"><td>Swiss franc</td><td class="buy">0.9510</td><td ' +
      'class="sell">0.9820</td></tr></tbody></table></body></html>',
  },
  [
    plainly('classes dropped', [/ class="(usd|gbp|chf|buy|sell)"/g, '']),
    plainly('others moved', ['0.8420', '0.8431'], ['1.1240', '1.1302']),
    only(
      'grid',
      '1.0915',
      'rows reordered',
      [/<tr class="usd">.*?<\/tr>/, ''],
      [
        '0.9820</td></tr>',
        '0.9820</td></tr><tr class="usd"><td>US dollar</td><td class="buy">{v}</td><td class="sell">1.1302</td></tr>',
      ],
    ),
    only('grid', '1.1240', 'buy and sell heads exchanged: the page says so', [
      '<th>We buy</th><th>We sell</th>',
      '<th>We sell</th><th>We buy</th>',
    ]),
    never('grid', 'the row is of another currency', ['US dollar', 'Australian dollar']),
    never('variant', 'another base', ['<b>EUR</b>', '<b>GBP</b>']),
    never('words', 'inverted', ['<th>We buy</th>', '<th>We buy, per 100</th>']),
    never('data', 'no rate today', [/\{v\}/, 'n/a']),
  ],
);

const fund = site(
  {
    kind: 'fund',
    pick: '.nav-value',
    was: ['184.32', ''],
    is: ['186.07', ''],
    truth: '186.07',
    html:
      '<html lang="en-GB"><head><title>Heath Growth Fund A Acc | Moorgate ' +
      `Funds</title></head><body>${menu()}<main><h1>Heath Growth Fund</h1><p>Share class <select><option ` +
      'selected>A Acc</option><option>I Acc</option><option>A Inc</option></select></p><p>ISIN ' +
      'GB00B0000001</p><table><tr><th>NAV (GBP)</th><td class="nav-value">{v}</td></tr><tr><th>Dealing ' +
      'day</th><td>14 May 2026</td></tr><tr><th>Ongoing charge</th><td>0.85 ' +
      `%</td></tr></table></main>${footer()}</body></html>`,
  },
  [
    plainly('the next day', ['14 May 2026', '15 May 2026']),
    plainly('the class dropped', [' class="nav-value"', '']),
    never('variant', 'another share class', [
      '<option selected>A Acc</option><option>I Acc</option>',
      '<option>A Acc</option><option selected>I Acc</option>',
    ]),
    never('currency', 'in euros, said in the head', ['NAV (GBP)', 'NAV (EUR)']),
    never('thing', 'another fund', ['Heath Growth Fund', 'Heath Income Fund'], ['GB00B0000001', 'GB00B0000002']),
    never('words', 'the offer price', ['NAV (GBP)', 'Offer price (GBP)']),
    never('data', 'not yet', [/\{v\}/, '—']),
    never('jump', 'in pence', [/\{v\}/, '18607']),
  ],
);

const share = site(
  {
    kind: 'share price',
    pick: '[data-field=last]',
    was: ['412.50', ''],
    is: ['405.10', ''],
    truth: '405.10',
    html:
      '<html lang="en-GB"><head><title>Heatherlow plc (HLW)</title></head><body><main><h1>Heatherlow plc</h1><p ' +
      'class="tick">HLW · London</p><div class="q"><span data-field="last">{v}</span> <span class="ccy">GBX</span> ' +
      '<span ' +
      'class="chg">-1.2%</span></div><table><tr><td>Open</td><td>411.00</td></tr><tr><td>High</td><td>415.00</td></tr><tr><td>Volume</td><td>120,402</td></tr></table><p>Closed</p></main></body></html>',
  },
  [
    plainly('the change moved', ['-1.2%', '+0.4%']),
    plainly('open again', ['<p>Closed</p>', '<p>Open</p>']),
    plainly('the attribute dropped', [' data-field="last"', '']),
    never('currency', 'pounds', ['GBX', 'GBP']),
    never('currency', 'on another exchange', ['London', 'New York'], ['GBX', 'USD']),
    never('thing', 'another company', ['Heatherlow plc', 'Hazelmere plc'], ['HLW', 'HZM']),
    never('grid', 'open in its place', [
      '<span data-field="last">{v}</span>',
      '<span>Open</span> <span data-field="last">{v}</span>',
    ]),
    never('words', 'delayed to a close of yesterday', [
      '<div class="q">',
      '<div class="q"><span>Previous close</span> ',
    ]),
  ],
);

const fuel = site(
  {
    kind: 'fuel prices',
    pick: '.fuel li:nth-child(1) .ppl',
    was: ['142.9p', ''],
    is: ['139.9p', ''],
    truth: '1.399 GBP',
    html:
      '<html lang="en-GB"><head><title>Wisbech Road filling station</title></head><body><h1>Wisbech Road</h1><ul ' +
      'class="fuel"><li><span class="n">Unleaded</span> <span class="ppl">{v}</span> <span class="u">per ' +
      'litre</span></li><li><span class="n">Diesel</span> <span class="ppl">149.9p</span> <span class="u">per ' +
      'litre</span></li><li><span class="n">Super unleaded</span> <span class="ppl">158.9p</span> <span ' +
      'class="u">per litre</span></li></ul><p>Updated 07:40 today</p></body></html>',
  },
  [
    plainly('updated later', ['07:40', '11:05']),
    plainly('diesel moved', ['149.9p', '147.9p']),
    only(
      'grid',
      '1.399 GBP',
      'diesel first',
      [
        '<span class="n">Unleaded</span> <span class="ppl">{v}</span>',
        '<span class="n">Diesel</span> <span class="ppl">149.9p</span>',
      ],
      [
        /<li><span class="n">Diesel<\/span> <span class="ppl">149.9p<\/span> <span class="u">per litre<\/span><\/li><li><span class="n">Super/,
        '<li><span class="n">Unleaded</span> <span class="ppl">{v}</span> <span class="u">per ' +
          'litre</span></li><li><span class="n">Super',
      ],
    ),
    never('thing', 'unleaded sold out and left out', [/<li><span class="n">Unleaded.*?<\/li>/, '']),
    never('thing', 'another station', ['Wisbech Road', 'Lynn Road']),
    never('unit', 'per gallon', ['{v}</span> <span class="u">per litre', '£6.36</span> <span class="u">per gallon']),
    never('words', 'with a loyalty card', [
      '{v}</span> <span class="u">per litre',
      '{v}</span> <span class="u">per litre with card',
    ]),
    never('words', 'a greener kind', ['<span class="n">Unleaded</span>', '<span class="n">Unleaded E5</span>']),
    never('data', 'none', [/\{v\}/, '–']),
  ],
);

const river = site(
  {
    kind: 'river levels',
    pick: '#now-level',
    was: ['0.62 m', ''],
    is: ['0.84 m', ''],
    truth: '0.84 m',
    html:
      '<html lang="en-GB"><head><title>River Lark at Temple Bridge</title></head><body><main><h1>River Lark at ' +
      'Temple Bridge</h1><p>Station 2109</p><dl><dt>Latest level</dt><dd id="now-level">{v}</dd><dt>Highest on ' +
      'record</dt><dd>2.41 m</dd><dt>Usual range</dt><dd>0.20 m to 1.10 m</dd><dt>Measured ' +
      'at</dt><dd>10:15</dd></dl></main></body></html>',
  },
  [
    plainly('later', ['10:15', '10:30']),
    plainly('id renamed', ['id="now-level"', 'id="lvl"']),
    never('unit', 'feet', [/\{v\}/, '2.75 ft']),
    never('unit', 'centimetres', [/\{v\}/, '84 cm']),
    never('words', 'forecast', ['Latest level', 'Forecast level']),
    never('words', 'yesterday’s', ['Latest level', 'Highest yesterday']),
    never('thing', 'another gauge', ['Temple Bridge', 'Isleham'], ['Station 2109', 'Station 2115']),
    only('grid', '0.84 m', 'the record first', [
      '<dt>Latest level</dt><dd id="now-level">{v}</dd><dt>Highest on record</dt><dd>2.41 m</dd>',
      '<dt>Highest on record</dt><dd id="now-level">2.41 m</dd><dt>Latest level</dt><dd>{v}</dd>',
    ]),
    never('data', 'no measurement', [/\{v\}/, 'No data']),
    never('jump', 'ten times as high', [/\{v\}/, '8.40 m']),
  ],
);

const weather = site(
  {
    kind: 'weather',
    pick: 'table.fc tr:nth-of-type(2) td:nth-of-type(2)',
    was: ['17 °C', ''],
    is: ['19 °C', ''],
    truth: '19 °C',
    html:
      '<html lang="en-GB"><head><title>Weather for Ely</title></head><body><h1>Weather for Ely</h1><table ' +
      'class="fc"><tr><th>Part of the day</th><th>Temperature</th><th>Feels ' +
      'like</th><th>Rain</th></tr><tr><td>Morning</td><td>{v}</td><td>15 °C</td><td>10 ' +
      '%</td></tr><tr><td>Afternoon</td><td>21 °C</td><td>21 °C</td><td>20 %</td></tr></table><p>Wind from the ' +
      'west</p></body></html>',
  },
  [
    plainly('rain likelier', ['<td>10 %</td>', '<td>40 %</td>']),
    plainly('wind turned', ['from the west', 'from the north']),
    only('grid', '15 °C', 'feels like first: the page says so', [
      '<th>Temperature</th><th>Feels like</th>',
      '<th>Feels like</th><th>Temperature</th>',
    ]),
    never('grid', 'the morning is over', [/<tr><td>Morning<\/td>.*?<\/tr>/, '']),
    only('grid', '19 °C', 'a night put before', [
      '<tr><td>Morning</td>',
      '<tr><td>Night</td><td>9 °C</td><td>8 °C</td><td>0 %</td></tr><tr><td>Morning</td>',
    ]),
    never('unit', 'Fahrenheit', [/\{v\}/, '66 °F']),
    never('thing', 'another town', ['Weather for Ely', 'Weather for March']),
  ],
);

const league = site(
  {
    kind: 'league table',
    pick: 'tr[data-club=fen] td.pts',
    was: ['34', ''],
    is: ['37', ''],
    truth: '37',
    html:
      '<html lang="en-GB"><head><title>Eastern League 2025/26</title></head><body><h1>Eastern League</h1><h2>Table ' +
      'after round 18</h2><table ' +
      'class="lt"><thead><tr><th>Pos</th><th>Club</th><th>P</th><th>GD</th><th>Pts</th></tr></thead><tbody><tr ' +
      'data-club="lark"><td>1</td><td>Lark Rovers</td><td>18</td><td>+14</td><td class="pts">38</td></tr><tr ' +
      'data-club="fen"><td>2</td><td>Fen United</td><td>18</td><td>+9</td><td class="pts">{v}</td></tr><tr ' +
      'data-club="ouse"><td>3</td><td>Ouse Town</td><td>18</td><td>+2</td><td ' +
      'class="pts">29</td></tr></tbody></table></body></html>',
  },
  [
    plainly('attributes dropped', [/ data-club="\w+"/g, '']),
    only(
      'grid',
      '37',
      'second became third',
      [/<tr data-club="fen">.*?<\/tr>/, ''],
      [
        '<td class="pts">29</td></tr>',
        '<td class="pts">39</td></tr><tr data-club="fen"><td>3</td><td>Fen United</td><td>18</td><td>+9</td><td ' +
          'class="pts">{v}</td></tr>',
      ],
      ['<td>3</td><td>Ouse', '<td>2</td><td>Ouse'],
    ),
    never('grid', 'points and goals exchanged', ['<th>GD</th><th>Pts</th>', '<th>Pts</th><th>GD</th>']),
    never('grid', 'another club in the row', ['<td>Fen United</td>', '<td>Wash Athletic</td>']),
    never(
      'variant',
      'the season before',
      ['Eastern League 2025/26', 'Eastern League 2024/25'],
      ['<h1>Eastern League</h1>', '<h1>Eastern League, last season</h1>'],
    ),
    never('words', 'at home only', ['<th>Pts</th>', '<th>Pts at home</th>']),
    never('thing', 'the women’s league', ['Eastern League', 'Eastern Women’s League']),
  ],
);

const status = site(
  {
    kind: 'status page',
    pick: '#api .pct',
    was: ['99.98 %', ''],
    is: ['99.71 %', ''],
    truth: '99.71 %',
    html:
      '<html lang="en"><head><title>Tallyleaf status</title></head><body><h1>Tallyleaf status</h1><p>All systems ' +
      'work</p><section><h2>Uptime over 90 days</h2><div id="web" class="svc"><h3>Web</h3><span class="pct">99.99 ' +
      '%</span></div><div id="api" class="svc"><h3>API</h3><span class="pct">{v}</span></div><div id="mail" ' +
      'class="svc"><h3>Mail</h3><span class="pct">99.90 %</span></div></section></body></html>',
  },
  [
    plainly('something is down', ['All systems work', 'Mail is slow']),
    plainly('ids dropped', [/ id="\w+"/g, '']),
    never('words', 'over another time', ['Uptime over 90 days', 'Uptime over 7 days']),
    never('thing', 'another service in the place', ['<h3>API</h3>', '<h3>API (beta)</h3>']),
    only(
      'grid',
      '99.90 %',
      'the names exchanged: the page says so',
      ['<h3>API</h3>', '<h3>X</h3>'],
      ['<h3>Mail</h3>', '<h3>API</h3>'],
      ['<h3>X</h3>', '<h3>Mail</h3>'],
    ),
    never('words', 'of errors', ['<span class="pct">{v}</span>', '<span class="pct">{v} errors</span>']),
  ],
);

const notice = site(
  {
    kind: 'official notice',
    pick: 'main p:nth-of-type(2) b',
    was: ['3.40 %', ''],
    is: ['3.65 %', ''],
    truth: '3.65 %',
    html:
      '<html lang="en-GB"><head><title>Diesel surcharge – Norlink Freight</title></head><body><header>Norlink ' +
      'Freight</header><main><h1>Diesel surcharge</h1><p>Valid for parcels within Great Britain.</p><p>Surcharge: ' +
      '<b>{v}</b></p><p>Former surcharge: <b>3.10 %</b></p></main></body></html>',
  },
  [
    plainly('a list', [
      '<p>Surcharge: <b>{v}</b></p><p>Former surcharge: <b>3.10 %</b></p>',
      '<ul><li>Surcharge: <b>{v}</b></li><li>Former surcharge: <b>3.40 %</b></li></ul>',
    ]),
    plainly('the former one moved', ['3.10 %', '3.40 %']),
    never('variant', 'abroad', ['within Great Britain', 'to the European Union']),
    only('grid', '3.65 %', 'the former one first', [
      '<p>Surcharge: <b>{v}</b></p><p>Former surcharge: <b>3.10 %</b></p>',
      '<p>Former surcharge: <b>3.40 %</b></p><p>Surcharge: <b>{v}</b></p>',
    ]),
    never('words', 'from next month', ['<b>{v}</b>', '<b>{v}</b> from 1 July']),
    never('words', 'for express', ['Surcharge: <b>{v}', 'Express surcharge: <b>{v}']),
    never('unit', 'in pence', [/\{v\}/, '3.65p']),
    never(
      'thing',
      'another surcharge',
      ['<h1>Diesel surcharge', '<h1>Peak surcharge'],
      ['<title>Diesel', '<title>Peak'],
    ),
  ],
);

const postage = site(
  {
    kind: 'postage rates',
    pick: '#inland tr:nth-of-type(3) td:nth-of-type(3)',
    was: ['kr 89,00', ''],
    is: ['kr 92,00', ''],
    truth: '92.00 NOK',
    html:
      '<html ' +
      'lang="nb-NO"><head><title>Pakkepriser</title></head><body><h1>Pakkepriser</h1><h2>Innenlands</h2><table ' +
      'id="inland"><tr><th>Vekt</th><th>Henting</th><th>Hjem</th></tr><tr><td>Inntil 5 kg</td><td>kr ' +
      '61,00</td><td>kr 74,00</td></tr><tr><td>5–10 kg</td><td>kr 75,00</td><td>{v}</td></tr><tr><td>10–35 ' +
      'kg</td><td>kr 120,00</td><td>kr 159,00</td></tr></table><h2>Utlandet</h2><table ' +
      'id="abroad"><tr><th>Vekt</th><th>Henting</th><th>Hjem</th></tr><tr><td>Inntil 5 kg</td><td>kr ' +
      '180,00</td><td>kr 210,00</td></tr></table></body></html>',
  },
  [
    plainly('ids dropped', [' id="inland"', ''], [' id="abroad"', '']),
    plainly('others moved', ['kr 61,00', 'kr 63,00']),
    never('grid', 'the bands of weight moved', ['5–10 kg', '2–5 kg']),
    never('grid', 'a band more before, the last one cut', [
      '<tr><td>Inntil 5 kg</td><td>kr 61,00</td><td>kr 74,00</td></tr><tr><td>5–10 kg</td><td>kr ' +
        '75,00</td><td>{v}</td></tr>',
      '<tr><td>Inntil 1 kg</td><td>kr 51,00</td><td>kr 64,00</td></tr><tr><td>1–5 kg</td><td>kr 61,00</td><td>kr ' +
        '74,00</td></tr>',
    ]),
    never(
      'grid',
      'the tables exchanged',
      ['<h2>Innenlands</h2>', '<h2>X</h2>'],
      ['<h2>Utlandet</h2>', '<h2>Innenlands</h2>'],
      ['<h2>X</h2>', '<h2>Utlandet</h2>'],
    ),
    never('words', 'uten mva', ['<th>Hjem</th>', '<th>Hjem (uten mva)</th>']),
    never('currency', 'svenske kroner', ['lang="nb-NO"', 'lang="sv-SE"']),
  ],
);

const auction = site(
  {
    kind: 'auction',
    pick: '.lot .bid',
    was: ['£220', ''],
    is: ['£260', ''],
    truth: '260 GBP',
    html:
      '<html lang="en-GB"><head><title>Lot 114: Georgian honey pot</title></head><body><main><h1>Lot 114: Georgian ' +
      'honey pot</h1><div class="lot"><p class="l">Current bid</p><p class="bid">{v}</p><p class="n">7 bids</p><p ' +
      'class="e">Estimate £200–£300</p></div><p>Ends 18:00</p></main></body></html>',
  },
  [
    plainly('more bids', ['7 bids', '9 bids']),
    plainly('ends later', ['18:00', '18:10']),
    never('words', 'sold', ['Current bid', 'Sold for']),
    never('words', 'the start', ['Current bid', 'Starting bid']),
    never('thing', 'another lot', ['Lot 114: Georgian honey pot', 'Lot 115: Silver honey pot']),
    never('words', 'with the premium', ['<p class="bid">{v}</p>', '<p class="bid">{v}</p><p>incl. premium</p>']),
    never(
      'thing',
      'withdrawn, the estimate moved up',
      ['<p class="l">Current bid</p><p class="bid">{v}</p>', '<p class="l">Withdrawn</p>'],
      ['<p class="e">Estimate £200–£300</p>', '<p class="bid">£200</p>'],
    ),
  ],
);

const lots = site(
  {
    kind: 'supplier’s lots',
    pick: '#w2 .perkilo',
    was: ['6,40', ''],
    is: ['6,15', ''],
    truth: '6.15',
    html:
      '<html lang="de-AT"><head><title>Wachs in Partien</title></head><body><h1>Wachs in ' +
      'Partien</h1><table><caption>Frei Haus</caption><thead><tr><th>Partie</th><th>Güte</th><th>€ / ' +
      'kg</th><th>Menge</th></tr></thead><tbody><tr id="w1"><td>W-1</td><td>A</td><td ' +
      'class="perkilo">7,10</td><td>120 kg</td></tr><tr id="w2"><td>W-2</td><td>B</td><td ' +
      'class="perkilo">{v}</td><td>80 kg</td></tr><tr id="w3"><td>W-3</td><td>C</td><td ' +
      'class="perkilo">5,20</td><td>300 kg</td></tr></tbody></table></body></html>',
  },
  [
    plainly('less of it', ['80 kg', '60 kg']),
    plainly('ids dropped', [/ id="w\d"/g, '']),
    never('grid', 'another lot in the row', ['<td>W-2</td>', '<td>W-9</td>']),
    never('variant', 'another grade', ['<td>B</td>', '<td>D</td>']),
    never('unit', 'per pound', ['€ / kg', '€ / lb']),
    never('currency', 'francs in the head', ['€ / kg', 'CHF / kg']),
    never('words', 'ab Werk', ['Frei Haus', 'Ab Werk']),
    never('notation', 'another language settles the mark', ['lang="de-AT"', 'lang="en-GB"'], [/\{v\}/, '6,150']),
  ],
);

const loan = site(
  {
    kind: 'savings and loans',
    pick: '.rate-card:nth-of-type(2) .aer',
    was: ['4.15 %', ''],
    is: ['3.95 %', ''],
    truth: '3.95 %',
    html:
      '<html lang="en-GB"><head><title>Savings rates - Ouse Building Society</title></head><body><h1>Savings ' +
      'rates</h1><div class="cards"><div class="rate-card"><h2>Easy access</h2><p>AER <span class="aer">2.60 ' +
      '%</span></p></div><div class="rate-card"><h2>One year bond</h2><p>AER <span class="aer">{v}</span></p><p ' +
      'class="min">Balances from £500</p></div><div class="rate-card"><h2>Two year bond</h2><p>AER <span ' +
      'class="aer">4.00 %</span></p></div></div></body></html>',
  },
  [
    plainly('classes renamed', ['rate-card', 'rc'], ['class="aer"', 'class="x"']),
    only(
      'grid',
      '3.95 %',
      'the bonds reordered',
      [/<div class="rate-card"><h2>Easy access.*?<\/div>/, ''],
      [
        '4.00 %</span></p></div>',
        '4.00 %</span></p></div><div class="rate-card"><h2>Easy access</h2><p>AER <span class="aer">2.60 ' +
          '%</span></p></div>',
      ],
    ),
    never('words', 'gross', ['One year bond</h2><p>AER', 'One year bond</h2><p>Gross']),
    never('words', 'with a bonus', ['<p class="min">', '<p>incl. bonus of 1 %</p><p class="min">']),
    never('thing', 'no longer offered', [/<div class="rate-card"><h2>One year bond.*?£500<\/p><\/div>/, '']),
    never('thing', 'another issue', ['One year bond', 'One year bond, issue 12']),
  ],
);

const yen = site(
  {
    kind: 'Japanese shop',
    pick: '.kakaku',
    was: ['¥12,800', ''],
    is: ['¥11,900', ''],
    truth: '11900 JPY',
    html:
      '<html lang="ja-JP"><head><title>燻煙器 大 | 蜂屋</title></head><body><h1>燻煙器 大</h1><div><span ' +
      'class="kakaku">{v}</span><span class="zei">(税込)</span></div><p>在庫あり</p></body></html>',
  },
  [
    plainly('stock', ['在庫あり', '残り2点']),
    plainly('class renamed', ['class="kakaku"', 'class="p"']),
    only('notation', '11900 JPY', 'full-width', [/\{v\}/, '￥１１，９００']),
    never('words', 'without tax', ['(税込)', '(税抜)']),
    never('thing', 'the small one', ['燻煙器 大', '燻煙器 小']),
    never('currency', 'yuan', [/\{v\}/, 'CN¥11,900']),
  ],
);

const forms = site(
  {
    kind: 'council charges',
    pick: '#garden strong',
    was: ['£52', ''],
    is: ['£56', ''],
    truth: '56 GBP',
    html:
      '<html lang="en-GB"><head><title>Garden waste collection | Fenland Council</title></head><body><a ' +
      'href="#m">Skip to content</a><main id="m"><h1>Garden waste collection</h1><div id="cookie">We use cookies. ' +
      '<button>Accept</button></div><div id="garden"><h2>Cost</h2><p>A bin costs <strong>{v}</strong> a ' +
      'year.</p><p>A second bin costs <em>£30</em> a year.</p></div></main></body></html>',
  },
  [
    plainly('the cookie bar is gone', [/<div id="cookie">.*?<\/div>/, '']),
    plainly('second bin dearer', ['£30', '£33']),
    never('words', 'the second bin in its place', ['A bin costs <strong>', 'A second bin costs <strong>']),
    never('words', 'late', ['</strong> a year.', '</strong> a year if you pay after 1 April.']),
    never('unit', 'for half a year', ['</strong> a year.', '</strong> for six months.']),
    never('thing', 'another service', ['Garden waste collection', 'Bulky waste collection']),
    never('data', 'not yet said', [/\{v\}/, 'to be set']),
  ],
);

export const PUBLIC: Site[] = [
  rates,
  fund,
  share,
  fuel,
  river,
  weather,
  league,
  status,
  notice,
  postage,
  auction,
  lots,
  loan,
  yen,
  forms,
];
