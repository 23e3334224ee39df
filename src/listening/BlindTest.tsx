"use client";

import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { useHotkeys } from "react-hotkeys-hook";
import { blindRounds, verdict } from "./blind";
import { usePlayback, type Side } from "./Playback";

/** Without looking: which of the two is this? Ten times, then the score. */
export function BlindTest({ onClose }: { onClose(): void }) {
  const playback = usePlayback();
  const [answers, setAnswers] = useState<{ was: Side; said: Side }[]>([]);
  const [now, setNow] = useState<Side | null>(null);
  const { present, toggle, playing } = playback;

  const flip = () => {
    const side: Side = crypto.getRandomValues(new Uint8Array(1))[0]! < 128 ? "reference" : "version";
    setNow(side);
    present(side);
    if (!playing) toggle();
  };
  const answer = (said: Side) => {
    if (!now) return;
    const next = [...answers, { was: now, said }];
    setAnswers(next);
    if (next.length < blindRounds) flip();
    else setNow(null);
  };
  useHotkeys("r", () => answer("reference"), [now, answers]);
  useHotkeys("v", () => answer("version"), [now, answers]);
  const right = answers.filter(({ was, said }) => was === said).length;
  const done = answers.length === blindRounds;
  return (
    <Modal show centered onHide={onClose} aria-labelledby="blind-title">
      <Modal.Header>
        <h2 id="blind-title">Blind test</h2>
      </Modal.Header>
      <Modal.Body>
        {done ? (
          <>
            <div className="answer mb-2">
              <span className="value" data-testid="blind-score">
                {right}
              </span>
              <span className="soft">of {blindRounds} right</span>
            </div>
            <p className="m-0">{verdict(right, blindRounds)}</p>
          </>
        ) : now === null ? (
          <p className="m-0">
            You hear one of the two ten times, chosen at random, at equal loudness and through the current
            monitor setting. Say which it is each time. Select a loop first to judge one passage.
          </p>
        ) : (
          <>
            <p className="soft">
              {answers.length + 1} of {blindRounds}. Which is this?
            </p>
            <div className="d-flex gap-2">
              <Button variant="quiet" onClick={() => answer("reference")}>
                The reference <kbd>R</kbd>
              </Button>
              <Button variant="quiet" onClick={() => answer("version")}>
                The version <kbd>V</kbd>
              </Button>
            </div>
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="quiet" onClick={onClose}>
          {done ? "Close" : "Stop"}
        </Button>
        {(now === null || done) && (
          <Button
            variant="primary"
            onClick={() => {
              setAnswers([]);
              flip();
            }}
          >
            {done ? "Again" : "Start"}
          </Button>
        )}
      </Modal.Footer>
    </Modal>
  );
}
