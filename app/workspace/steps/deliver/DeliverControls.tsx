import { FileControls } from "../../../deliver/FileControls";
import { ResultFolder } from "../../../deliver/ResultFolder";
import { fileLayout } from "../../../../pipeline/deliver/fileLayout";
import { unknownFields } from "../../../../pipeline/deliver/fileName";
import { namesOfFiles } from "../../../work/fileNames";
import { expectedOf } from "../../../work/expected";
import { startDelivery } from "../../actions/deliver";
import { DeliverButton } from "../../DeliverButton";
import { useKept } from "../../state/useKept";
import { useRecipe, useRecord, useSession, useWorkspace } from "../../state/workspace";
import { OtherFiles } from "./OtherFiles";
import { OutputFacts } from "../../../deliver/OutputFacts";

/** What file the picture goes out in. */
export function DeliverControls() {
  const workspace = useWorkspace();
  const { edit, view } = workspace;
  const { stack, shoot } = useRecord();
  const recipe = useRecipe();
  const { also, ...settings } = recipe.deliver;
  const others = also.filter(({ on }) => on).length;
  return (
    <>
      <FileControls
        settings={settings}
        kind={recipe.kind}
        onKeep={(part, label) =>
          edit.keep({ ...recipe, deliver: { ...recipe.deliver, ...part } }, label)
        }
      />
      <FileName />
      <FileFacts />
      <OtherFiles />
      <ResultFolder shoot={shoot.id} onProblem={(note) => view.setState({ note })} />
      <div className="mt-2">
        <DeliverButton
          stackId={stack.id}
          label={others ? `Render and save ${others + 1} files` : "Render and save"}
          onDeliver={() => startDelivery(workspace)}
        />
      </div>
    </>
  );
}

/** The name that the file gets by its pattern, and fields that nobody knows. */
function FileName() {
  const { members, record } = useWorkspace();
  const recipe = useRecipe();
  const { stack, take, shoot } = record();
  const infos = members.map(({ info }) => info);
  const [[name] = []] = namesOfFiles(shoot, [{ stack, take: take.name, recipe, infos }]);
  const unknown = unknownFields(recipe.deliver.pattern);
  return (
    <p className="truncate pl-2.5 text-[12px] text-quiet" title={name}>
      {unknown.length ? `Nobody knows {${unknown.join("}, {")}}` : name}
    </p>
  );
}

/** What the file will be, and what making it takes. */
function FileFacts() {
  const { members } = useWorkspace();
  const recipe = useRecipe();
  const size = useSession((s) => s.size);
  const canvas = useSession((s) => s.layout?.canvas);
  const isReady = useSession((s) => s.phase === "ready");
  const layout = fileLayout(useKept()?.region ?? size, recipe.deliver);
  return (
    <OutputFacts
      layout={layout}
      settings={recipe.deliver}
      expected={isReady ? () => expectedOf(members, recipe, layout.file, canvas) : undefined}
    />
  );
}
