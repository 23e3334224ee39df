"use client";

import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from "react";

/** Something that a notice offers, as to undo what it tells of. */
export interface NoticeAction {
  name: string;
  act(): void;
}

interface Notice {
  id: number;
  text: string;
  action?: NoticeAction;
}

interface NoticeBoard {
  /** Says something for some seconds, and may offer something. */
  say(text: string, action?: NoticeAction): void;
}

const Board = createContext<NoticeBoard>({ say: () => {} });

export const useNotices = (): NoticeBoard => useContext(Board);

const plainSeconds = 6;
const actionSeconds = 12;

/** Short messages above the listening bar. */
export function Notices({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const nextId = useRef(0);
  const timers = useRef(new Set<ReturnType<typeof setTimeout>>());
  const drop = useCallback((id: number) => setNotices((all) => all.filter((n) => n.id !== id)), []);
  const say = useCallback<NoticeBoard["say"]>(
    (text, action) => {
      const id = nextId.current++;
      setNotices((all) => [...all.slice(-2), { id, text, ...(action ? { action } : {}) }]);
      timers.current.add(setTimeout(() => drop(id), 1000 * (action ? actionSeconds : plainSeconds)));
    },
    [drop],
  );
  useEffect(() => {
    const running = timers.current;
    return () => running.forEach(clearTimeout);
  }, []);
  const board = useMemo(() => ({ say }), [say]);
  return (
    <Board.Provider value={board}>
      {children}
      <div className="notices" role="status" aria-live="polite">
        {notices.map((notice) => (
          <div key={notice.id} className="notice">
            <span>{notice.text}</span>
            {notice.action && (
              <button
                type="button"
                className="plain-button"
                onClick={() => {
                  drop(notice.id);
                  notice.action?.act();
                }}
              >
                {notice.action.name}
              </button>
            )}
            <button
              type="button"
              className="plain-button"
              aria-label="Close message"
              onClick={() => drop(notice.id)}
            >
              ×
            </button>
          </div>
        ))}
      </div>
    </Board.Provider>
  );
}
