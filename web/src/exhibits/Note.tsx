import type { ReactNode } from "react";
import type { Schemas } from "../api/client";

type Block = Schemas["NoteBlock"];

/** A note as it is meant: the service has taken its Markdown apart, so that nothing in it is taken for a tag. */
export function Note({ blocks }: { blocks: Block[] }) {
  return blocks.map((block, i) => <Piece key={`${i} ${block.kind}`} block={block} />);
}

function Piece({ block }: { block: Block }) {
  const items = (block.items ?? []).map((item, i) => <Note key={`${i} item`} blocks={item} />);
  const words = (block.runs ?? []).map((run, i) => <Run key={`${i} ${run.text}`} run={run} />);
  if (block.kind === "ul" || block.kind === "ol") {
    const List = block.kind;
    return (
      <List>
        {items.map((item) => (
          <li key={item.key}>{item}</li>
        ))}
      </List>
    );
  }
  if (block.kind === "quote") return <blockquote>{items}</blockquote>;
  if (block.kind === "rule") return <hr />;
  if (block.kind === "code") return <pre>{words}</pre>;
  return <p>{block.kind === "h" ? <b>{words}</b> : words}</p>;
}

function Run({ run }: { run: Schemas["NoteRun"] }) {
  let words: ReactNode = run.code ? <code>{run.text}</code> : run.text;
  if (run.strong) words = <b>{words}</b>;
  if (run.emph) words = <em>{words}</em>;
  return words;
}
