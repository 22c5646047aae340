import { database } from '@/server/db/connection';
import { findTrial } from '@/server/http/find';
import { reportResponse } from '@/server/http/report';
import { answer, Refusal } from '@/server/http/respond';
import { reportName } from '@/server/report/names';

export const dynamic = 'force-dynamic';

/** The ladder that a trial is a step of, as one HTML file that needs nothing beside itself. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    if (!trial.ladder) throw new Refusal(404, 'not-found', 'the trial is no step of a ladder', 'id');
    const name = await reportName(database(), trial.shot, { ladder: trial.number });
    return reportResponse(['--ladder', trial.id], name);
  });
