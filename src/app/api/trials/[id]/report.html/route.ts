import { database } from '@/server/db/connection';
import { findTrial } from '@/server/http/find';
import { reportResponse } from '@/server/http/report';
import { answer } from '@/server/http/respond';
import { reportName } from '@/server/report/names';

export const dynamic = 'force-dynamic';

/** A trial, or it against another (`against=id`), as one HTML file that needs nothing beside itself. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const asked = new URL(request.url).searchParams.get('against');
    const against = asked === null ? null : await findTrial(asked);
    const name = await reportName(database(), trial.shot, { trial: trial.number, against: against?.number });
    return reportResponse(['--trial', trial.id, ...(against ? [against.id] : [])], name);
  });
