import type { Request, RequestHandler, Response, Router } from 'express';
import { UserError } from '../app/errors.ts';

type Handler = (req: Request, res: Response) => Promise<void>;
type Handlers = Partial<Record<'get' | 'post' | 'delete', Handler>>;

/** A path with what can be done there; anything else is answered with what could be (RFC 9110, 15.5.6). */
export function door(router: Router, path: string, handlers: Handlers): void {
  const route = router.route(path);
  const methods = Object.keys(handlers) as (keyof Handlers)[];
  for (const method of methods) route[method](handlers[method] as RequestHandler);
  const allow = methods.flatMap((m) => (m === 'get' ? ['GET', 'HEAD'] : [m.toUpperCase()])).join(', ');
  route.all((req, res) => {
    res.set('Allow', allow);
    throw new UserError(405, 'wrong-method', `${req.method} does nothing here: use ${allow}.`);
  });
}
