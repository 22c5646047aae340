import { database } from '@/server/db/connection';
import { reportResponse } from '@/server/http/report';
import { answer } from '@/server/http/respond';
import { findRun } from '@/server/http/runs';
import { reportName } from '@/server/report/names';

export const dynamic = 'force-dynamic';

/** What a run delivered, and how noisy and dear its frames were, as one HTML file that needs nothing beside itself. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const run = await findRun(database(), (await params).id);
    return reportResponse(['--run', run.id], await reportName(database(), run.shot, { run: run.number }));
  });
