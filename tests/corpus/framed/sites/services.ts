import { footer, menu, never, only, plainly, site, type Site } from '../page';

// What is let, hired, booked or subscribed to.

const plans = site(
  {
    kind: 'subscription',
    pick: '#team .figure',
    was: ['$29', ''],
    is: ['$32', ''],
    truth: '32 USD',
    html: `<html lang="en-US"><head><title>Plans and pricing · Tallyleaf</title></head><body><nav><a>Tallyleaf</a><a>Product</a><a aria-current="page">Pricing</a></nav><main><h1>Plans and pricing</h1>
<div role="tablist" class="bill"><button role="tab" aria-selected="true">Monthly</button><button role="tab" aria-selected="false">Yearly</button></div>
<div class="plans"><section id="solo"><h2>Solo</h2><p class="cost"><span class="figure">$9</span> <span class="per">per month</span></p><ul><li>1 seat</li><li>10 boards</li></ul></section>
<section id="team"><h2>Team</h2><p class="cost"><span class="figure">{v}</span> <span class="per">per seat, per month</span></p><ul><li>Up to 50 seats</li><li>Unlimited boards</li></ul></section>
<section id="firm"><h2>Firm</h2><p class="cost"><span class="figure">$79</span> <span class="per">per seat, per month</span></p><ul><li>Any number of seats</li></ul></section></div></main>${footer()}</body></html>`,
  },
  [
    plainly('the ids dropped', [' id="solo"', ''], [' id="team"', ''], [' id="firm"', '']),
    plainly('cards renamed', ['class="cost"', 'class="c"'], ['class="figure"', 'class="f"']),
    plainly('more in the list', ['<li>Unlimited boards</li>', '<li>Unlimited boards</li><li>Single sign-on</li>']),
    only(
      'grid',
      '32 USD',
      'the plans in another order',
      [/<section id="solo">.*?<\/section>\n/s, ''],
      [
        '<section id="firm">',
        '<section id="solo"><h2>Solo</h2><p class="cost"><span class="figure">$9</span> <span class="per">per ' +
          'month</span></p></section><section id="firm">',
      ],
    ),
    never(
      'variant',
      'yearly is chosen',
      ['aria-selected="true">Monthly', 'aria-selected="false">Monthly'],
      ['aria-selected="false">Yearly', 'aria-selected="true">Yearly'],
    ),
    never('words', 'per year', [
      'per seat, per month</span></p><ul><li>Up to 50',
      'per seat, per year</span></p><ul><li>Up to 50',
    ]),
    never('words', 'billed yearly, under it', [
      '<span class="per">per seat, per month</span></p><ul><li>Up to 50',
      '<span class="per">per seat, per month</span></p><p class="small">billed yearly</p><ul><li>Up to 50',
    ]),
    never('words', 'for the first three months', [
      'per seat, per month</span></p><ul><li>Up to 50',
      'per seat, per month for the first 3 months</span></p><ul><li>Up to 50',
    ]),
    never('thing', 'the plan has another name', ['<h2>Team</h2>', '<h2>Starter</h2>']),
    never(
      'thing',
      'the plans exchanged their ids',
      ['<section id="team"><h2>Team</h2>', '<section id="team"><h2>Firm</h2>'],
      ['<section id="firm"><h2>Firm</h2>', '<section id="firm"><h2>Team</h2>'],
    ),
    never('unit', 'for the whole team', [
      'per seat, per month</span></p><ul><li>Up to 50',
      'per month</span></p><ul><li>Up to 50',
    ]),
    never('currency', 'Australian dollars', [/\{v\}/, 'A$32']),
    never('currency', 'a switch of currency above', [
      '<div class="plans">',
      '<p>Prices in <select><option>USD</option><option selected>AUD</option></select></p><div class="plans">',
    ]),
    never('data', 'on request', [/\{v\}/, 'Talk to us']),
  ],
);

const concert = site(
  {
    kind: 'tickets',
    pick: 'tr.stalls td.c',
    was: ['£42.50', ''],
    is: ['£45.00', ''],
    truth: '45.00 GBP',
    html: `<html lang="en-GB"><head><title>Fen Sinfonia at the Corn Hall</title></head><body><main><h1>Fen Sinfonia</h1><p class="when">Saturday 12 June, 19:30, Corn Hall</p>
<h2>Tickets</h2><table><thead><tr><th>Seats</th><th>Adult</th><th>Under 18</th><th>Left</th></tr></thead><tbody><tr class="circle"><td>Circle</td><td>£55.00</td><td>£27.50</td><td>18</td></tr>
<tr class="stalls"><td>Stalls</td><td class="c">{v}</td><td>£21.00</td><td>64</td></tr><tr class="balcony"><td>Balcony</td><td>£24.00</td><td>£12.00</td><td>101</td></tr></tbody></table><p>A booking fee of £2.50 is added to each order.</p></main></body></html>`,
  },
  [
    plainly('seats sold', ['<td>64</td>', '<td>12</td>']),
    plainly('the classes dropped', [' class="stalls"', ''], [' class="c"', '']),
    plainly('a row more above', [
      '<tr class="circle">',
      '<tr><td>Box</td><td>£80.00</td><td>£80.00</td><td>2</td></tr><tr class="circle">',
    ]),
    only(
      'grid',
      '45.00 GBP',
      'the columns exchanged',
      ['<th>Adult</th><th>Under 18</th>', '<th>Under 18</th><th>Adult</th>'],
      ['<td class="c">{v}</td><td>£21.00</td>', '<td class="c">£21.00</td><td>{v}</td>'],
      ['<td>£55.00</td><td>£27.50</td>', '<td>£27.50</td><td>£55.00</td>'],
      ['<td>£24.00</td><td>£12.00</td>', '<td>£12.00</td><td>£24.00</td>'],
    ),
    only('grid', '21.00 GBP', 'only the heads exchanged: the page says so', [
      '<th>Adult</th><th>Under 18</th>',
      '<th>Under 18</th><th>Adult</th>',
    ]),
    only(
      'grid',
      '45.00 GBP',
      'a column put before',
      ['<th>Adult</th>', '<th>Members</th><th>Adult</th>'],
      ['<td class="c">{v}</td>', '<td class="c">£38.00</td><td>{v}</td>'],
      ['<td>£55.00</td>', '<td>£50.00</td><td>£55.00</td>'],
      ['<td>£24.00</td>', '<td>£20.00</td><td>£24.00</td>'],
    ),
    never('grid', 'the head says family now', ['<th>Adult</th>', '<th>Family of four</th>']),
    never('thing', 'another evening', ['Saturday 12 June', 'Sunday 13 June']),
    never(
      'thing',
      'another concert',
      ['<h1>Fen Sinfonia', '<h1>Wash Quartet'],
      ['<title>Fen Sinfonia', '<title>Wash Quartet'],
    ),
    never('thing', 'sold out', [
      '<td class="c">{v}</td><td>£21.00</td><td>64</td>',
      '<td class="c">Sold out</td><td>–</td><td>0</td>',
    ]),
    never('words', 'with a restricted view', ['<td>Stalls</td>', '<td>Stalls, restricted view</td>']),
    never('words', 'the fee stands in the place', [/\{v\}/, 'from £45.00']),
  ],
);

const letting = site(
  {
    kind: 'property to let',
    pick: 'p.rent strong',
    was: ['£1,250', ''],
    is: ['£1,195', ''],
    truth: '1195 GBP',
    html: `<html lang="en-GB"><head><title>2 bed flat to let in Mill Road | Fenway Homes</title></head><body>${menu()}<main><h1>2 bed flat, Mill Road, CB1</h1><p class="ref">Property ref: FH-4410</p>
<p class="rent"><strong>{v}</strong> <span>pcm</span></p><ul class="key"><li>Furnished</li><li>Council tax band C</li><li>Available 1 September</li></ul><p>Deposit <b>£1,440</b></p><p>Let agreed? Ask us.</p></main>${footer()}</body></html>`,
  },
  [
    plainly('the deposit moved', ['£1,440', '£1,380']),
    plainly(
      'strong became span',
      ['<p class="rent"><strong>{v}</strong>', '<div class="rent-now"><span>{v}</span>'],
      ['<span>pcm</span></p>', '<span>pcm</span></div>'],
    ),
    plainly('free sooner', ['1 September', '15 August']),
    never('words', 'per week', ['<span>pcm</span>', '<span>pw</span>'], [/\{v\}/, '£995']),
    never('words', 'the deposit stands first', [
      '<p class="rent"><strong>{v}</strong> <span>pcm</span></p>',
      '<p class="rent"><strong>£1,380</strong> <span>deposit</span></p><p><strong>{v}</strong> <span>pcm</span></p>',
    ]),
    never('words', 'per person', ['<span>pcm</span>', '<span>pppm</span>'], [/\{v\}/, '£895']),
    never('words', 'bills included', ['<span>pcm</span>', '<span>pcm incl. bills</span>']),
    never('variant', 'unfurnished', ['<li>Furnished</li>', '<li>Unfurnished</li>']),
    never('thing', 'another flat', ['Mill Road, CB1', 'Tenison Road, CB1'], ['FH-4410', 'FH-4523']),
    never('thing', 'let, and a like one offered', [
      '<p class="rent"><strong>{v}</strong> <span>pcm</span></p>',
      '<p>Let agreed. Like this: 2 bed flat, Hills Road</p><p class="rent"><strong>{v}</strong> <span>pcm</span></p>',
    ]),
    never('jump', 'it is for sale now', [/\{v\}/, '£285,000'], ['<span>pcm</span>', '']),
  ],
);

const hotel = site(
  {
    kind: 'hotel',
    pick: '.room[data-room=double] .rate',
    was: ['€118', ''],
    is: ['€126', ''],
    truth: '126 EUR',
    html: `<html lang="en-IE"><head><title>The Harbour House, Kinsale</title></head><body><main><h1>The Harbour House</h1><p class="stay">2 nights, 14 May to 16 May, 2 guests</p>
<div class="rooms"><div class="room" data-room="single"><h3>Single room</h3><p><span class="rate">€89</span> a night</p></div><div class="room" data-room="double"><h3>Double room</h3><p><span class="rate">{v}</span> a night</p><p class="incl">Breakfast included</p><p class="terms">Free cancellation</p></div><div class="room" data-room="suite"><h3>Suite</h3><p><span class="rate">€210</span> a night</p></div></div></main></body></html>`,
  },
  [
    plainly('the attribute renamed', ['data-room=', 'data-kind=']),
    plainly('the single dearer', ['€89', '€95']),
    plainly('a picture put in', ['<h3>Double room</h3>', '<img src="/d.jpg" alt=""><h3>Double room</h3>']),
    never('words', 'for the stay', [
      '<span class="rate">{v}</span> a night',
      '<span class="rate">{v}</span> for the stay',
    ]),
    never('words', 'without breakfast', ['Breakfast included', 'Room only']),
    never('words', 'not refundable', ['Free cancellation', 'Not refundable']),
    never('variant', 'one guest', ['2 guests', '1 guest']),
    never('variant', 'other nights', ['14 May to 16 May', '21 May to 23 May']),
    never('thing', 'the rooms exchanged', ['data-room="double"><h3>Double room', 'data-room="double"><h3>Twin room']),
    never('thing', 'no double left', [/<div class="room" data-room="double">.*?<\/p><\/div>/, '']),
    never('currency', 'pounds', [/\{v\}/, '£126']),
    never('words', 'with a code', [
      '<span class="rate">{v}</span> a night',
      '<span class="rate">{v}</span> a night with code MAY',
    ]),
  ],
);

const hire = site(
  {
    kind: 'car hire',
    pick: '.vehicle .sum',
    was: ['£212.40', ''],
    is: ['£198.00', ''],
    truth: '198.00 GBP',
    html: `<html lang="en-GB"><head><title>Your quote - Ouse Car Hire</title></head><body><h1>Your quote</h1><div class="vehicle"><h2>Small van, manual</h2><p class="sum">{v}</p><p class="basis">Total for 4 days</p>
<table><tr><th>Collected</th><td>Ely station</td></tr><tr><th>Mileage</th><td>Unlimited</td></tr><tr><th>Excess</th><td>£900</td></tr><tr><th>Driver’s age</th><td>30 and over</td></tr></table></div></body></html>`,
  },
  [
    plainly('a line on fuel', [
      '<tr><th>Excess</th>',
      '<tr><th>Fuel</th><td>Full to full</td></tr><tr><th>Excess</th>',
    ]),
    plainly('tags changed', ['<p class="sum">{v}</p>', '<div class="sum">{v}</div>']),
    never('words', 'a day', ['Total for 4 days', 'Per day']),
    never('words', 'for three days', ['Total for 4 days', 'Total for 3 days']),
    never('variant', 'another age', ['30 and over', '21 to 24']),
    never('variant', 'collected elsewhere', ['Ely station', 'Stansted Airport']),
    never('variant', 'limited mileage', ['Unlimited', '100 a day']),
    never('thing', 'another van', ['Small van, manual', 'Large van, manual']),
    never('words', 'pay now', ['<p class="sum">{v}</p>', '<p class="lab">Pay now</p><p class="sum">{v}</p>']),
    never('jump', 'nothing to pay', [/\{v\}/, '£0.00']),
  ],
);

const energy = site(
  {
    kind: 'energy tariff',
    pick: '#elec-unit',
    was: ['24.50p per kWh', ''],
    is: ['23.86p per kWh', ''],
    truth: '0.2386 GBP',
    html: `<html lang="en-GB"><head><title>Tariffs | Brightfen Energy</title></head><body><main><h1>Our tariffs</h1><h2>Fen Fixed 12</h2><h3>Electricity</h3><table><tr><td>Unit rate</td><td id="elec-unit">{v}</td></tr><tr><td>Standing charge</td><td>53.20p per day</td></tr></table>
<h3>Gas</h3><table><tr><td>Unit rate</td><td id="gas-unit">6.10p per kWh</td></tr><tr><td>Standing charge</td><td>31.00p per day</td></tr></table><p>Region: <b>Eastern</b>. Payment by direct debit.</p></main></body></html>`,
  },
  [
    plainly('ids renamed', ['id="elec-unit"', 'id="e1"'], ['id="gas-unit"', 'id="g1"']),
    plainly('the standing charge moved', ['53.20p', '54.10p']),
    plainly(
      'wrapped',
      ['<h2>Fen Fixed 12</h2>', '<section><h2>Fen Fixed 12</h2>'],
      ['<p>Region', '</section><p>Region'],
    ),
    only('grid', '0.2386 GBP', 'the rows exchanged', [
      '<tr><td>Unit rate</td><td id="elec-unit">{v}</td></tr><tr><td>Standing charge</td><td>53.20p per day</td></tr>',
      '<tr><td>Standing charge</td><td>53.20p per day</td></tr><tr><td>Unit rate</td><td id="elec-unit">{v}</td></tr>',
    ]),
    never('variant', 'another region', ['<b>Eastern</b>', '<b>London</b>']),
    never('variant', 'by cheque', ['Payment by direct debit', 'Payment by cheque']),
    never('thing', 'another tariff', ['Fen Fixed 12', 'Fen Tracker']),
    never('unit', 'a day', [/\{v\}/, '23.86p per day']),
    never('words', 'night rate', [
      '<tr><td>Unit rate</td><td id="elec-unit">',
      '<tr><td>Night unit rate</td><td id="elec-unit">',
    ]),
    never('grid', 'gas first', ['<h3>Electricity</h3>', '<h3>Gases</h3>'], ['<h3>Gas</h3>', '<h3>Electricity</h3>']),
    never('words', 'before tax', [/\{v\}/, '23.86p per kWh excl. VAT']),
  ],
);

const vacancy = site(
  {
    kind: 'vacancies',
    pick: '.salary',
    was: ['£34,500', ''],
    is: ['£36,200', ''],
    truth: '36200 GBP',
    html:
      `<html lang="en-GB"><head><title>Apiary manager – County jobs</title></head><body>${menu()}<main><h1>Apiary ` +
      'manager</h1><dl><dt>Reference</dt><dd>CJ/2210</dd><dt>Salary</dt><dd ' +
      'class="salary">{v}</dd><dt>Hours</dt><dd>Full ' +
      'time</dd><dt>Contract</dt><dd>Permanent</dd><dt>Closes</dt><dd>30 ' +
      `June</dd></dl></main>${footer()}</body></html>`,
  },
  [
    plainly('closes later', ['30 June', '14 July']),
    plainly('a table instead', [
      '<dl><dt>Reference</dt><dd>CJ/2210</dd><dt>Salary</dt><dd class="salary">{v}</dd>',
      '<table><tr><th>Reference</th><td>CJ/2210</td></tr><tr><th>Salary</th><td>{v}</td></tr></table><dl>',
    ]),
    never('words', 'pro rata', ['{v}</dd>', '{v} pro rata</dd>']),
    never('words', 'up to', ['<dd class="salary">', '<dd class="salary">up to ']),
    never('variant', 'part time', ['Full time', 'Part time, 20 hours']),
    never('variant', 'for a year', ['Permanent', 'Fixed term, one year']),
    never('thing', 'another post', ['Apiary manager', 'Assistant beekeeper'], ['CJ/2210', 'CJ/2304']),
    never('unit', 'a day', [/\{v\}/, '£362 a day']),
    never('data', 'to be told', [/\{v\}/, 'Competitive']),
  ],
);

const phone = site(
  {
    kind: 'phone contract',
    pick: '.monthly b',
    was: ['£27.00', ''],
    is: ['£25.00', ''],
    truth: '25.00 GBP',
    html: `<html lang="en-GB"><head><title>Quill 5 on Marlpit Mobile</title></head><body><main><h1>Quill 5</h1><div class="opts"><p>Storage</p><label class="opt"><input type="radio" name="gb" checked>128 GB</label><label class="opt"><input type="radio" name="gb">256 GB</label><p>Contract</p><label class="opt"><input type="radio" name="c" checked>24 months</label><label class="opt"><input type="radio" name="c">36 months</label></div>
<div class="pay"><p class="monthly"><b>{v}</b> a month</p><p class="up"><b>£30.00</b> upfront</p></div><p>Data: 50 GB</p></main></body></html>`,
  },
  [
    plainly(
      'boxes renamed',
      ['class="monthly"', 'class="m"'],
      ['class="up"', 'class="u"'],
      ['class="pay"', 'class="q"'],
    ),
    plainly('upfront dearer', ['£30.00', '£40.00']),
    never('variant', 'more storage', ['name="gb" checked', 'name="gb"'], ['name="gb">256', 'name="gb" checked>256']),
    never('variant', 'a longer contract', ['name="c" checked', 'name="c"'], ['name="c">36', 'name="c" checked>36']),
    never('variant', 'less data', ['Data: 50 GB', 'Data: 5 GB']),
    never('words', 'upfront first', [
      '<p class="monthly"><b>{v}</b> a month</p><p class="up"><b>£30.00</b> upfront</p>',
      '<p class="monthly"><b>£30.00</b> upfront</p><p class="up"><b>{v}</b> a month</p>',
    ]),
    never('words', 'for six months', ['</b> a month</p>', '</b> a month for 6 months</p>']),
    never('words', 'with a trade-in', ['</b> a month</p>', '</b> a month</p><p>with trade-in</p>']),
    never('thing', 'the next one', ['Quill 5', 'Quill 6']),
  ],
);

const course = site(
  {
    kind: 'course fees',
    pick: 'table.fees tr:nth-of-type(2) td:nth-of-type(2)',
    was: ['£9,250', ''],
    is: ['£9,535', ''],
    truth: '9535 GBP',
    html:
      '<html lang="en-GB"><head><title>BSc Apiculture - University of the Levels</title></head><body><main><h1>BSc ' +
      'Apiculture</h1><h2>Fees and funding</h2><p>Year of entry: <strong>2026</strong></p><table ' +
      'class="fees"><tr><th>Student</th><th>Each year</th><th>Whole ' +
      'course</th></tr><tr><td>Home</td><td>{v}</td><td>£27,750</td></tr><tr><td>International</td><td>£19,800</td><td>£59,400</td></tr></table></main></body></html>',
  },
  [
    plainly('the whole course moved with it', ['£27,750', '£28,605']),
    plainly('the table has another class', ['class="fees"', 'class="t2"']),
    only(
      'grid',
      '9535 GBP',
      'international first',
      [/<tr><td>Home<\/td>.*?<\/tr>/, ''],
      ['£59,400</td></tr>', '£59,400</td></tr><tr><td>Home</td><td>{v}</td><td>£28,605</td></tr>'],
    ),
    never('grid', 'the columns exchanged, the cells not', [
      '<th>Each year</th><th>Whole course</th>',
      '<th>Whole course</th><th>Each year</th>',
    ]),
    never('variant', 'the next year of entry', ['<strong>2026</strong>', '<strong>2027</strong>']),
    never('words', 'part time', ['<td>Home</td>', '<td>Home, part time</td>']),
    never('thing', 'another course', ['BSc Apiculture', 'BSc Entomology']),
    never('data', 'to be confirmed', [/\{v\}/, 'TBC']),
  ],
);

const ferry = site(
  {
    kind: 'timetable and fares',
    pick: '#fares tbody tr:nth-child(1) td:nth-child(3)',
    was: ['£14.60', ''],
    is: ['£15.20', ''],
    truth: '15.20 GBP',
    html: `<html lang="en-GB"><head><title>Fares – Solway Ferries</title></head><body><main><h1>Fares</h1><div class="season"><a class="active">Summer</a> <a>Winter</a></div><table id="fares"><thead><tr><th rowspan="2">Route</th><th colspan="2">Foot passenger</th><th colspan="2">Car</th></tr><tr><th>Single</th><th>Return</th><th>Single</th><th>Return</th></tr></thead>
<tbody><tr><td>Nith to Annan</td><td>£8.10</td><td>{v}</td><td>£31.00</td><td>£56.00</td></tr><tr><td>Nith to Silloth</td><td>£9.40</td><td>£17.00</td><td>£36.00</td><td>£65.00</td></tr></tbody></table></main></body></html>`,
  },
  [
    plainly('other fares moved too', ['£31.00', '£32.00'], ['£56.00', '£58.00']),
    plainly('a route more above', [
      '<tbody><tr>',
      '<tbody><tr><td>Dee to Annan</td><td>£4.00</td><td>£7.00</td><td>£20.00</td><td>£38.00</td></tr><tr>',
    ]),
    never('grid', 'the bands exchanged', [
      '<th colspan="2">Foot passenger</th><th colspan="2">Car</th>',
      '<th colspan="2">Car</th><th colspan="2">Foot passenger</th>',
    ]),
    only('grid', '8.10 GBP', 'the heads single and return exchanged: the page says so', [
      '<th>Single</th><th>Return</th><th>Single</th><th>Return</th>',
      '<th>Return</th><th>Single</th><th>Return</th><th>Single</th>',
    ]),
    only(
      'grid',
      '17.00 GBP',
      'the routes exchanged: the page says so',
      ['Nith to Annan', 'Nith to Xx'],
      ['Nith to Silloth', 'Nith to Annan'],
      ['Nith to Xx', 'Nith to Silloth'],
    ),
    only(
      'grid',
      '15.20 GBP',
      'a column more before it',
      ['<th rowspan="2">Route</th>', '<th rowspan="2">Route</th><th rowspan="2">Hours</th>'],
      ['Nith to Annan</td>', 'Nith to Annan</td><td>1 h</td>'],
      ['Nith to Silloth</td>', 'Nith to Silloth</td><td>2 h</td>'],
    ),
    never('variant', 'the winter', [
      '<a class="active">Summer</a> <a>Winter</a>',
      '<a>Summer</a> <a class="active">Winter</a>',
    ]),
    never('words', 'children', ['Foot passenger', 'Foot passenger, child']),
    never('unit', 'euros in the head', ['<th>Single</th><th>Return</th>', '<th>Single</th><th>Return (10 trips)</th>']),
  ],
);

export const SERVICES: Site[] = [plans, concert, letting, hotel, hire, energy, vacancy, phone, course, ferry];
