import { useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { useStable } from "../../ui/useStable";
import { StackSession } from "../../work/session";
import { stackFrames } from "../../work/stackWork";
import { settle } from "../picture/viewport";
import { useRecipeEdit } from "./useRecipeEdit";
import { createReading, createView } from "./view";
import { ChangingContext, WorkspaceContext, type StackRecord, type Workspace } from "./workspace";

/** Opens a stack at work for everything within; another stack needs another one. */
export function WorkspaceProvider({
  record: read,
  children,
}: {
  record: StackRecord;
  children: ReactNode;
}) {
  const frames = useStable(read.frames);
  const record = useMemo(() => ({ ...read, frames }), [read, frames]);
  const { recipe, edit, submit, unsaved, changing, failed } = useRecipeEdit(record.take);
  const latest = useRef({ record, recipe });
  useEffect(() => {
    latest.current = { record, recipe };
  });
  const [workspace] = useState<Workspace>(() => {
    const members = stackFrames(record.frames, record.originals);
    const session = new StackSession(members);
    const view = createView(session.state.size);
    // a panorama has its size only when its frames are placed
    session.store.subscribe(({ size }, was) => {
      if (size !== was.size)
        view.setState(({ viewport, box }) => ({ viewport: settle(viewport, size, box) }));
    });
    return {
      session,
      view,
      reading: createReading(),
      members,
      record: () => latest.current.record,
      recipe: () => latest.current.recipe,
      edit,
      submit,
    };
  });
  useEffect(() => () => workspace.session.close(), [workspace]);
  useEffect(() => {
    if (failed) workspace.view.setState({ note: failed });
  }, [workspace, failed]);
  const value = useMemo(
    () => ({ record, recipe, unsaved, changing }),
    [record, recipe, unsaved, changing],
  );
  return (
    <WorkspaceContext value={workspace}>
      <ChangingContext value={value}>{children}</ChangingContext>
    </WorkspaceContext>
  );
}
