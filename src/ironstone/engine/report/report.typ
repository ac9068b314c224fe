// The report as PDF. What it says is in report.json; all of it is text, none of it is read as markup.
#let data = json("report.json")
#let ink = rgb("#23282d")
#let quiet = rgb("#595c58")
#let rule = rgb("#cfc7b8")
#let states = (good: rgb("#3f5f36"), doubt: rgb("#8a5a10"), bad: rgb("#8e3420"))

#set document(title: data.title + ": report", author: if data.organisation != "" { data.organisation } else { "Ironstone Ridge" })
#set page(
  paper: "a4",
  margin: (x: 22mm, top: 24mm, bottom: 22mm),
  header: context if here().page() > 1 { set text(8pt, fill: quiet); [#data.title #h(1fr) #data.organisation] },
  footer: context { set text(8pt, fill: quiet); [#data.made, Ironstone Ridge #data.engine #h(1fr) #counter(page).display("1 / 1", both: true)] },
)
#set text(font: ("Instrument Sans", "DejaVu Sans"), size: 9.5pt, fill: ink, lang: "en")
#set par(justify: false, leading: 0.6em)
#show heading.where(level: 1): it => { v(6pt); block(below: 10pt, text(15pt, weight: 600, it.body)) }
#show heading.where(level: 2): it => block(above: 16pt, below: 8pt, sticky: true, text(12pt, weight: 600, it.body))
#show heading.where(level: 3): it => block(above: 14pt, below: 6pt, sticky: true, text(10.5pt, weight: 600, it.body))
#show heading.where(level: 4): it => block(above: 10pt, below: 5pt, sticky: true, text(9.5pt, weight: 600, fill: quiet, it.body))
#set table(stroke: (x, y) => (bottom: 0.5pt + rule), inset: (x: 4pt, y: 3pt), align: left + top)
#show table: set text(8pt)
#show figure.where(kind: table): set figure.caption(position: top)
#show figure: set block(breakable: true)
#show figure: set align(left)
#show figure.caption: it => align(left, text(8pt, fill: quiet, it.body))

// A long word of a name or a number may break anywhere.
#let broken(said) = {
  let found = str(said)
  if found.split(" ").any(word => word.clusters().len() > 24) { found.split(" ").map(word => if word.clusters().len() > 24 { word.clusters().join("\u{200b}") } else { word }).join(" ") } else { found }
}
#let judged(verdict, state) = if verdict != "" {
  let colour = if state in states { states.at(state) } else { rule }
  let mark = if state == "doubt" { (paint: colour, thickness: 2pt, dash: "dashed") } else { (paint: colour, thickness: if state == "bad" { 4pt } else { 2pt }) }
  block(above: 6pt, below: 6pt, inset: (left: 8pt, y: 3pt), stroke: (left: mark))[
    #verdict
  ]
}
#let caveat(said) = block(above: 4pt, below: 4pt, inset: (left: 6pt), stroke: (left: 1pt + states.doubt), text(8.5pt, said))
#let grid-of(heads, rows, caption, columns: none) = if rows.len() > 0 {
  figure(
    kind: table, supplement: none, caption: caption,
    align(left, table(
      columns: if columns != none { columns } else { (auto,) * heads.len() },
      ..if heads.any(h => h != "") { (table.header(..heads.map(h => strong(broken(h)))),) },
      ..rows.map(row => row.map(cell => broken(cell))).flatten(),
    )),
  )
}
#let run(r) = {
  let found = if r.code { raw(r.text) } else { r.text }
  if r.strong { found = strong(found) }
  if r.emph { found = emph(found) }
  found
}
#let note(blocks) = for b in blocks {
  if b.kind == "ul" { list(..b.items.map(note)) } else if b.kind == "ol" { enum(..b.items.map(note)) } else if b.kind == "quote" { pad(left: 10pt, b.items.map(note).join()) } else if b.kind == "rule" { line(length: 100%, stroke: rule) } else if b.kind == "code" { raw(b.runs.first().text, block: true) } else if b.kind == "h" { par(strong(b.runs.map(run).join())) } else { par(b.runs.map(run).join()) }
}
#let leaf(e, level) = {
  heading(level: level, e.title)
  judged(e.verdict, e.state)
  let said = e.sentence + "." + if e.shown != "" { " " + e.shown }
  if e.picture != "" {
    figure(kind: image, supplement: none, caption: said, image(e.picture, width: 100%, alt: said))
  } else { par(said) }
  if e.drawn != "" { par(text(fill: quiet, e.drawn)) }
  if e.photograph != "" {
    let shows = "Photograph. " + e.photographed
    figure(kind: image, supplement: none, caption: shows, image(e.photograph, width: 70%, alt: shows))
  }
  for c in e.caveats { caveat(c) }
  grid-of(("figure", "value", "how"), e.figures, "Figures of " + e.title, columns: (1fr, auto, 1fr))
  for t in e.tables { grid-of(t.heads, t.rows, "Table of " + e.title + ". " + t.said) }
  if e.note.len() > 0 { block(stroke: 0.5pt + rule, inset: 8pt, width: 100%, note(e.note)) }
  if e.questions.len() > 0 { par(text(7.5pt, fill: quiet, broken("Asked: " + e.questions.join("; ") + "."))) }
}

// Cover
#v(30mm)
#if data.logo != "" { image(data.logo, height: 14mm, alt: data.organisation + " logo") }
#if data.organisation != "" { text(11pt, fill: quiet, data.organisation); v(4mm) }
#block(text(24pt, weight: 600, data.title))
#v(2mm)
#text(fill: quiet)[#data.counts.at(0) result#if data.counts.at(0) != 1 { "s" }, #data.counts.at(1) exhibit#if data.counts.at(1) != 1 { "s" }. Made on #data.made by Ironstone Ridge #data.engine.]
#par[Of what was judged: #data.verdicts.]
#if data.block.len() > 0 { v(6mm); table(columns: (auto, 1fr), ..data.block.map(l => (text(fill: quiet, l.at(0)), l.at(1))).flatten()) }
#if data.question.len() > 0 { v(6mm); heading(level: 1, "The question"); note(data.question) }
#pagebreak()
#outline(title: "Contents", depth: 3)
#pagebreak()

#heading(level: 1, "What was found")
#if data.counts.at(1) == 0 { par(text(fill: quiet, "No exhibit is kept in this review.")) }
#for chapter in data.chapters {
  if chapter.title != "" {
    heading(level: 2, chapter.title)
    if chapter.leaves.len() == 0 { par(text(fill: quiet, "No exhibit is in this chapter.")) }
  }
  for e in chapter.leaves { leaf(e, if chapter.title != "" { 3 } else { 2 }) }
}

#pagebreak(weak: true)
#heading(level: 1, "Results, and what was assumed of them")
#for r in data.results {
  heading(level: 2, r.name)
  grid-of(("", ""), r.facts, "What it is", columns: (22mm, 1fr))
  for (title, lines) in r.lists { heading(level: 3, outlined: false, title); list(..lines.map(broken)) }
  heading(level: 3, outlined: false, "Load balance")
  if r.balance == none { par(text(fill: quiet, r.balance_said)) } else {
    judged(r.balance.verdict, r.balance.state)
    par(r.balance.sentence)
    grid-of(("figure", "value"), r.balance.figures.map(f => f.slice(0, 2)), "Balance", columns: (1fr, auto))
    for c in r.balance.caveats { caveat(c) }
  }
  grid-of(("check", "verdict", "what it says"), r.sense, "Sense checks", columns: (auto, auto, 1fr))
  grid-of(("check", "found", "expected", "verdict", "source"), r.checks, "Hand checks", columns: (1fr, auto, auto, auto, 1fr))
}
#if data.gauges.len() > 0 { heading(level: 1, "Gauge lists"); list(..data.gauges.map(g => g.at(0) + ": " + g.at(1))) }
#if data.records.len() > 0 {
  heading(level: 1, "Test records")
  for r in data.records { heading(level: 2, r.name); list(..r.corrections.map(broken)) }
}
#heading(level: 1, "Sources")
#let mono(said) = text(font: ("Spline Sans Mono", "DejaVu Sans Mono"), size: 6pt, said)
#figure(
  kind: table, supplement: none, caption: "Files",
  table(
    columns: (1fr, auto, auto, auto),
    table.header(..("file", "bytes", "SHA-256", "result").map(strong)),
    ..data.sources.map(f => (broken(f.at(0)), str(f.at(1)), mono(f.at(2)), broken(f.at(3)))).flatten(),
  ),
)
