/** Skepwright's own look, which has nothing to do with Shrike's. */
export const SHOP_STYLE = `
*{box-sizing:border-box}body{margin:0;font:16px/1.5 Verdana,Geneva,sans-serif;color:#2b2a26;background:#fffdf6}
a{color:#5b4a12}main{max-width:1080px;margin:0 auto;padding:24px}
.masthead{display:flex;gap:28px;align-items:baseline;padding:18px 24px;background:#f2e3b3;border-bottom:4px solid #d8a31a}
.masthead__name{font:700 26px Georgia,serif;text-decoration:none;color:#3a2f08}.masthead nav{display:flex;gap:16px;flex:1}.masthead nav a{text-decoration:none}
.masthead__note{font-size:13px}.grid{display:grid;grid-template-columns:repeat(auto-fill,minmax(190px,1fr));gap:18px;list-style:none;padding:0}
.card{border:1px solid #e6d9a8;border-radius:10px;padding:12px;display:flex;flex-direction:column;gap:6px}.card__picture{display:block;height:90px;border-radius:6px;background:hsl(var(--tint) 40% 84%)}
.card__price{font-weight:700}.card__stock{color:#8a3b12;font-size:13px}.product{display:grid;grid-template-columns:1fr 1.2fr;gap:36px}
.product__picture{min-height:340px;border-radius:14px;background:linear-gradient(135deg,hsl(var(--tint) 45% 88%),hsl(var(--tint) 40% 70%))}
.product__name{font:700 30px Georgia,serif;margin:4px 0}.product__kind,.product__ref{color:#77704f;font-size:14px;margin:0}
.price__now{font-size:34px;font-weight:700}.price__was{color:#938a68}.stock{font-weight:700}
button{background:#d8a31a;border:0;border-radius:20px;padding:10px 22px;font:inherit;font-weight:700}button[disabled]{background:#e9e0c0}
.details{border-collapse:collapse;width:100%;font-size:14px}.details th{text-align:left;font-weight:400;color:#77704f}.details th,.details td{border-top:1px solid #eee2b8;padding:6px 0}
.reviews{columns:3;column-gap:28px}.reviews h2{column-span:all}.review{margin:0 0 16px;break-inside:avoid;font-size:14px}.review__head{display:flex;justify-content:space-between;margin:0}
.foot{display:grid;grid-template-columns:repeat(3,1fr);gap:32px;background:#3a2f08;color:#f2e3b3;padding:24px;font-size:14px}.foot a{color:inherit;display:block}
.x-panel{border:3px double #d8a31a;padding:30px}.x-sum{font-size:28px;font-style:normal}
`;
