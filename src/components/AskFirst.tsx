"use client";

import { Button, Modal } from "react-bootstrap";

/** Asks before something is lost, and says what. */
export function AskFirst({
  title,
  children,
  action,
  onConfirm,
  onCancel,
}: {
  title: string;
  children: React.ReactNode;
  action: string;
  onConfirm(): void;
  onCancel(): void;
}) {
  return (
    <Modal show centered onHide={onCancel} aria-labelledby="ask-title">
      <Modal.Header>
        <h2 id="ask-title">{title}</h2>
      </Modal.Header>
      <Modal.Body>{children}</Modal.Body>
      <Modal.Footer>
        <Button variant="quiet" onClick={onCancel}>
          Keep
        </Button>
        <Button variant="primary" onClick={onConfirm}>
          {action}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
