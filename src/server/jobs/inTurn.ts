/** Work that follows from changes of a study, one at a time. */

/** What follows last from changes of a study. */
export interface Following {
  /** Whether all that it follows from were jobs that ended. */
  afterJob: boolean;
  hasBegun: boolean;
  done: Promise<void>;
}

/**
 * Does some work once what was begun before it is done: side by side, work that read before a job ended could
 * write over what work that read after it has written. Work that has not begun yet serves for all changes
 * that come meanwhile.
 *
 * @param following what follows last from changes of each study.
 */
export function inTurn(
  following: Map<string, Following>,
  studyId: string,
  afterJob: boolean,
  work: (afterJob: boolean) => Promise<void>,
): Promise<void> {
  const last = following.get(studyId);
  if (last && !last.hasBegun) {
    last.afterJob &&= afterJob;
    return last.done;
  }
  const own: Following = { afterJob, hasBegun: false, done: Promise.resolve() };
  own.done = (async () => {
    await last?.done.catch(() => undefined);
    own.hasBegun = true;
    try {
      await work(own.afterJob);
    } finally {
      if (following.get(studyId) === own) following.delete(studyId);
    }
  })();
  following.set(studyId, own);
  return own.done;
}
