import { FileControls } from "../../../deliver/FileControls";
import { ResultFolder } from "../../../deliver/ResultFolder";
import { fileLayout } from "../../../../pipeline/deliver/fileLayout";
import { unknownFields } from "../../../../pipeline/deliver/fileName";
import { namesOfFiles } from "../../../work/fileNames";
import { expectedOf } from "../../../work/expected";
import { SoftProofControls } from "../../../softProof/SoftProofControls";
import { startDelivery } from "../../actions/deliver";
import { DeliverButton } from "../../DeliverButton";
import { beyondWhiteOf } from "../../../../pipeline/deliver/settings";
import { Checkbox } from "../../../ui/Checkbox";
import { useMediaQuery } from "../../../ui/useMediaQuery";
import { GOES_BEYOND_WHITE } from "../../../work/display";
import { useKept } from "../../state/useKept";
import { useRecipe, useRecord, useSession, useView, useWorkspace } from "../../state/workspace";
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
      <ShowBeyondWhite />
      <OnPaper />
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

/** Shows the picture as bright as the display goes, where that and the file go beyond white. */
function ShowBeyondWhite() {
  const { view } = useWorkspace();
  const { deliver } = useRecipe();
  const isShown = useView((v) => v.beyondWhite);
  const isPossible = useMediaQuery(GOES_BEYOND_WHITE);
  if (!isPossible || beyondWhiteOf(deliver) === "none") return null;
  return (
    <label className="flex h-7 items-center gap-2 pl-2.5">
      <Checkbox checked={isShown} onChange={(to) => view.setState({ beyondWhite: to })} />
      Show the picture beyond white
    </label>
  );
}

/** The paper that the picture is seen as on. */
function OnPaper() {
  const { view } = useWorkspace();
  const outside = useSession((s) => s.outsidePaper);
  return <SoftProofControls outside={outside} onProblem={(note) => view.setState({ note })} />;
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
