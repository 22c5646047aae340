import { database } from '@/server/db/connection';
import { reportResponse, version } from '@/server/http/report';
import { answer } from '@/server/http/respond';
import { findRun } from '@/server/http/runs';
import { runReport } from '@/server/report/run';

export const dynamic = 'force-dynamic';

/** What a run delivered, and how noisy and dear its frames were, as one HTML file that needs nothing beside itself. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    return reportResponse(await runReport(sql, await findRun(sql, (await params).id), version()));
  });
