import { type NextRequest, NextResponse } from 'next/server';
import { foreign } from './server/http/guard';

/** Pages answer to this machine's names only. Routes under /api guard themselves. */
export function proxy(request: NextRequest) {
  const fault = foreign(request.headers);
  return fault ? new NextResponse(fault, { status: 403 }) : NextResponse.next();
}

export const config = { matcher: ['/((?!api/|_next/|wasm/).*)'] };
