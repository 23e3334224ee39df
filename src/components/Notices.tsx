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
import { useHotkeys } from "react-hotkeys-hook";

interface Notice {
  id: number;
  text: string;
  undo?: () => void | Promise<void>;
}

interface NoticeBoard {
  /** Says something for some seconds; with `undo`, offers to take it back. */
  say(text: string, undo?: () => void | Promise<void>): void;
}

const Board = createContext<NoticeBoard>({ say: () => {} });

export const useNotices = (): NoticeBoard => useContext(Board);

const plainSeconds = 6;
const undoSeconds = 12;

/** Short messages above the listening bar. The newest that can be undone answers to Ctrl+Z. */
export function Notices({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const nextId = useRef(0);
  const timers = useRef(new Set<ReturnType<typeof setTimeout>>());
  const drop = useCallback((id: number) => setNotices((all) => all.filter((n) => n.id !== id)), []);
  const say = useCallback<NoticeBoard["say"]>(
    (text, undo) => {
      const id = nextId.current++;
      setNotices((all) => [...all.slice(-2), { id, text, ...(undo ? { undo } : {}) }]);
      timers.current.add(setTimeout(() => drop(id), 1000 * (undo ? undoSeconds : plainSeconds)));
    },
    [drop],
  );
  useEffect(() => {
    const running = timers.current;
    return () => running.forEach(clearTimeout);
  }, []);
  const takeBack = (notice: Notice) => {
    drop(notice.id);
    void notice.undo?.();
  };
  useHotkeys(
    "mod+z",
    () => {
      const newest = notices.findLast((notice) => notice.undo);
      if (newest) takeBack(newest);
    },
    { preventDefault: true },
    [notices],
  );
  const board = useMemo(() => ({ say }), [say]);
  return (
    <Board.Provider value={board}>
      {children}
      <div className="notices" role="status" aria-live="polite">
        {notices.map((notice) => (
          <div key={notice.id} className="notice">
            <span>{notice.text}</span>
            {notice.undo && (
              <button type="button" className="plain-button" onClick={() => takeBack(notice)}>
                Undo
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
