// Every answer of the HTTP interface comes so many milliseconds late, a change half as late: what is done
// before the page has what it asked for shows then.
import { Server } from 'node:http';

const lateness = Number(process.env['POLYCHRON_LATE_ANSWERS']);
const emit = Server.prototype.emit;
Server.prototype.emit = function (kind, ...given) {
  const [request] = given;
  const isAsked = kind === 'request' && request.url.startsWith('/api/') && !request.url.includes('/events');
  if (!isAsked) return emit.call(this, kind, ...given);
  setTimeout(() => emit.call(this, kind, ...given), request.method === 'GET' ? lateness : lateness / 2);
  return true;
};
