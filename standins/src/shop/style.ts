/** The look of the simulated shop: the workshop's papers and browns, and a serif that every machine has. */
export const STYLE = `
*{box-sizing:border-box}
body{font:17px/1.55 Georgia,'Times New Roman',serif;background:#f6f1e6;color:#2b2a27;margin:0;min-height:100vh;display:flex;flex-direction:column}
header{background:#5a2f1c;color:#f3e7d0;padding:14px 28px;display:flex;align-items:center;justify-content:space-between;gap:16px;flex-wrap:wrap}
.house{display:flex;align-items:center;gap:14px;color:inherit;text-decoration:none;font-size:21px;font-weight:700}
.house small{display:block;font-size:14px;font-weight:400;opacity:.85}
.basket{color:inherit;text-decoration:none;border:1px solid #a97f66;border-radius:999px;padding:6px 16px;font-size:16px}
.basket b{background:#f3e7d0;color:#5a2f1c;border-radius:999px;padding:1px 8px;margin:0 4px}
.basket.empty{border-color:transparent;opacity:.8}
main{width:100%;max-width:980px;margin:32px auto;padding:0 24px;flex:1}
h1{font-size:31px;line-height:1.2;margin:0 0 8px}
h2{font-size:22px;margin:32px 0 12px}
a{color:#5a2f1c}
.lead{font-size:19px;margin:0 0 24px;color:#5b564c}
ul.kits{display:grid;grid-template-columns:repeat(auto-fill,minmax(230px,1fr));gap:22px;list-style:none;padding:0;margin:0}
ul.kits li,.sheet{background:#fffdf8;border:1px solid #ddd3bf;border-radius:6px;padding:16px}
ul.kits li{display:flex;flex-direction:column}
ul.kits li>a{color:inherit;text-decoration:none;font-size:19px}
ul.kits li>a:hover b{text-decoration:underline}
ul.kits p{margin:4px 0 14px;font-size:16px;color:#5b564c;flex:1}
img{max-width:100%;height:auto;display:block;border-radius:4px;margin-bottom:10px}
.one{display:grid;grid-template-columns:minmax(240px,384px) 1fr;gap:36px;align-items:start}
@media (max-width:640px){.one{grid-template-columns:1fr}}
.holds{padding-left:20px;margin:0 0 24px}
.buy{display:flex;align-items:center;justify-content:space-between;gap:12px;flex-wrap:wrap}
.one .buy{justify-content:flex-start;gap:20px}
.price{font-size:20px;font-weight:700}
form{margin:0}
button{font:inherit;background:#5a2f1c;color:#fff;border:1px solid #5a2f1c;border-radius:5px;padding:8px 16px;cursor:pointer}
button.plain,.count button{background:transparent;color:#5a2f1c}
button:focus-visible,a:focus-visible,input:focus-visible{outline:3px solid #c9532b;outline-offset:2px}
table{width:100%;border-collapse:collapse;margin-bottom:18px}
td,th{padding:10px 6px;border-bottom:1px solid #e5dcc9;text-align:left}
th{font-size:14px;font-weight:400;color:#5b564c}
td:last-child,th:last-child{text-align:right;white-space:nowrap}
td:first-child{width:72px}
td img{width:56px;margin:0}
.count{display:flex;align-items:center;gap:10px}
.count button{padding:1px 10px}
.off td{color:#2f5d3a}
.total td{font-weight:700;border-bottom:0}
label{display:block}
input{font:inherit;padding:8px 10px;border:1px solid #8a7f6a;border-radius:5px;width:100%;margin:4px 0 12px;background:#fff}
.row{display:flex;gap:12px;align-items:end;margin-bottom:18px}
.row>label{flex:1;max-width:320px}
.row>button{margin-bottom:12px}
.told{background:#faefd6;color:#6d4a06;border-left:4px solid #c98a14;border-radius:4px;padding:10px 14px}
footer{padding:20px 28px;font-size:15px;color:#5b564c;border-top:1px solid #ddd3bf}
.ask{position:fixed;right:20px;bottom:20px;background:#fffdf8;border:1px solid #ddd3bf;border-radius:6px;padding:14px 18px;box-shadow:0 4px 18px rgba(60,40,20,.15);max-width:300px}
.ask p{margin:0 0 10px;font-size:16px}
.ask button{margin-right:8px}
`;
