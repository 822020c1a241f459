import { onStop } from '../keeping.ts';
import { Shop } from './shop.ts';

// The shop's process: its pages, and POST /begin {base, key, pictures} by which the demo gives it its key.
const shop = await new Shop(process.env.SHOP_FOLDER ?? '.ascenso/shop').listen(Number(process.env.SHOP_PORT ?? 0));
console.log(JSON.stringify({ ready: true, port: shop.port }));
onStop(shop.close);
