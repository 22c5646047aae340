'use client';

import { useState } from 'react';
import { MOVIE_CODECS, MOVIE_SHOWS, type Movie, newMovieSchema } from '@/contract/movie';
import type { Run, RunLine } from '@/contract/run';
import { bytes, counted } from '@/core/words';
import { Choice } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { Plain, Primary, Word } from '../../parts/controls';
import { Dialog } from '../../parts/dialog';
import { takeFile } from '../../parts/save-file';
import { api } from '../../state/api';
import { saying } from '../../state/log-trial';
import { usePlaying } from '../../state/player-store';
import { useMovies } from '../../state/runs';
import { useDocument } from '../../state/scene-now';
import { tell } from '../../state/tell';
import { Fact } from './fact';
import { pictureNames } from './picture-names';

const CODEC_WORDS = { av1: 'AV1', vp9: 'VP9' } as const;
const SHOW_WORDS = { beauty: 'the beauty, as displayed', comp: 'the stack' } as const;

/** Movies of a run: how far each is, and what was read back of those that are there. */
export function Movies({ run }: { run: RunLine }) {
  const movies = useMovies(run.id);
  const [watched, watch] = useState<Movie | null>(null);
  if (movies.length === 0) return null;
  return (
    <Fact words={movies.length === 1 ? 'movie' : 'movies'} testid="movies">
      {movies.map((m) => (
        <Line key={m.id} movie={m} onWatch={() => watch(m)} />
      ))}
      {watched && <Watch movie={watched} onClose={() => watch(null)} />}
    </Fact>
  );
}

/** What is in a movie, as it was read back. */
const factsOf = ({ frames, rate, seconds, bytes: size, held, width, height }: NonNullable<Movie['facts']>) =>
  `${counted(frames, 'frame')} · ${rate} a second · ${seconds.toFixed(2)} s · ${width}×${height} · ${bytes(size)}${held > 0 ? ` · ${held} stand still` : ''}`;

function Line({ movie, onWatch }: { movie: Movie; onWatch: () => void }) {
  const remove = () => saying(api.removeMovie(movie.id));
  if (movie.state === 'failed')
    return (
      <p role="alert">
        not made: {movie.fault}{' '}
        <Word className="underline" onClick={remove}>
          forget it
        </Word>
      </p>
    );
  if (!movie.facts)
    return (
      <p>
        <span className="num">
          {movie.state === 'waiting' ? 'waits' : `${Math.round(movie.fraction * 100)} %`} · {CODEC_WORDS[movie.codec]}
        </span>{' '}
        <Word className="underline" onClick={remove}>
          stop
        </Word>
      </p>
    );
  return (
    <div className="pb-0.5">
      <span className="num text-[11.5px] break-all">{movie.name}</span>
      <p className="num text-[11.5px] text-dim">
        {CODEC_WORDS[movie.codec]} · {factsOf(movie.facts)}
      </p>
      <Word className="-ml-1.5 underline" onClick={onWatch}>
        watch
      </Word>
      <Word className="underline" onClick={() => takeFile(`/api/movies/${movie.id}`)}>
        take
      </Word>
      <Word className="underline" onClick={remove}>
        forget
      </Word>
    </div>
  );
}

function Watch({ movie, onClose }: { movie: Movie; onClose: () => void }) {
  return (
    <Dialog title={movie.name ?? 'Movie'} place="page" onClose={onClose} testId="watch">
      <video
        src={`/api/movies/${movie.id}`}
        className="max-h-[70vh] w-full bg-black"
        controls
        autoPlay
        loop
        muted
        aria-label={`the movie ${movie.name}`}
      />
      <div className="flex items-center pt-3">
        <p className="num min-w-0 flex-1 text-soft">{movie.facts && factsOf(movie.facts)}</p>
        <Plain onClick={onClose}>Close</Plain>
      </div>
    </Dialog>
  );
}

/** Asks of which picture, as what, and at which rate a movie is made. */
export function MovieDialog({ run, onClose }: { run: Run; onClose: () => void }) {
  const names = pictureNames(run);
  const { perSecond } = useDocument().frames;
  const playing = usePlaying.getState().picture;
  const [shows, setShows] = useState<(typeof MOVIE_SHOWS)[number]>(run.comp ? 'comp' : 'beauty');
  const [picture, setPicture] = useState(playing < names.length ? playing : 0);
  const [codec, setCodec] = useState<(typeof MOVIE_CODECS)[number]>('av1');
  const [rate, setRate] = useState(perSecond);
  // The stack lies over the shot's own picture.
  const of = shows === 'comp' ? 0 : picture;
  const rows = run.rows.filter((r) => r.picture === of);
  const done = rows.filter((r) => r.state === 'done').length;
  const make = async () => {
    await api.makeMovie(run.id, { picture: of, shows, codec, rate });
    onClose();
  };
  return (
    <Dialog title="A movie of the frames" place="form" onClose={onClose} testId="movie-dialog">
      <form
        className="grid grid-cols-[120px_1fr] items-center gap-x-3 gap-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          void make().catch(tell);
        }}
      >
        {run.comp && (
          <>
            <span className="text-soft">shows</span>
            <Choice
              label="what it shows"
              value={shows}
              options={MOVIE_SHOWS.map((value) => ({ value, label: SHOW_WORDS[value] }))}
              onChange={(v) => setShows(v as typeof shows)}
            />
          </>
        )}
        {names.length > 1 && shows === 'beauty' && (
          <>
            <span className="text-soft">picture</span>
            <Choice
              label="which picture"
              value={String(picture)}
              options={names.map((label, i) => ({ value: String(i), label }))}
              onChange={(v) => setPicture(Number(v))}
            />
          </>
        )}
        <span className="text-soft">packed with</span>
        <Choice
          label="what it is packed with"
          value={codec}
          options={MOVIE_CODECS.map((value) => ({
            value,
            label: value === 'av1' ? 'AV1, the smaller' : 'VP9, for older players',
          }))}
          onChange={(v) => setCodec(v as typeof codec)}
        />
        <span className="text-soft">frames a second</span>
        <NumberField
          label="frames a second"
          value={rate}
          onChange={(v) => {
            const asked = newMovieSchema.shape.rate.safeParse(v);
            if (!asked.success) return 'from 1 to 240 frames a second';
            setRate(asked.data);
            return null;
          }}
        />
        <p className="col-span-2 pt-1 text-soft">
          <span className="num">
            {done} of {rows.length}
          </span>{' '}
          frames are done{done > 0 && <span className="num">, {(rows.length / rate).toFixed(2)} s</span>}.
          {done < rows.length && ' In place of those that are not, the one before stands still.'} WebM, 8 bits, BT.709,
          into the run’s folder.
        </p>
        <div className="col-span-2 flex justify-end gap-2 pt-2">
          <Plain onClick={onClose}>Leave</Plain>
          <Primary type="submit" disabled={done === 0}>
            Make the movie
          </Primary>
        </div>
      </form>
    </Dialog>
  );
}
