"""What the help says of each stage."""

BRIEF = """<h3>Brief: what is due</h3>
<p>List the shots with their frames and the settings that are asked for; say when the film is due and which machines
are free when. Double-click a cell, or press Enter, to change it. Paste rows from any table program; drop files on the
window. Delete removes what is picked; everything can be undone.</p>
<p><b>Frames</b> are written 1-120, or 1-120x2 for every second one. <b>Hours</b> are written
Mon-Fri 19:00-08:00, Sat-Sun all day. A machine-hour is an hour of the reference machine with one frame at
a time.</p>"""

TRIALS = """<h3>Trials: what has been timed</h3>
<p>Type the time of a test frame in the line below the table: 4:02, 4m02, 242 or 1h03. What you leave empty is as asked.
The forecast is for the settings of the brief; trials may be smaller and cheaper.</p>
<p><b>Ladder</b>: seconds over
samples, with the fit and the band that holds 90 in 100. Dashed lines are other sizes. <b>Cost along the shot</b>: how
much more expensive a frame is than the typical one. <b>Time this next</b> names the trial that tells most. A time
marked <b>check</b> looks like a slip; it hardly counts until you fix it.</p>
<p><b>Noise</b>, at the right of the
ladder, is what a trial left, as a share of the frame's mean brightness in scene-linear light; it falls by half with
four times the samples.</p>
<p>A shot with a <b>scene</b> in the brief can be rendered here: <b>Render it</b> renders
what is advised, <b>Render…</b> any frames, settings or a whole ladder. <b>Pictures</b> dropped on the window become
trials: their headers tell times and settings, under names that you give once for your renderer. Trials <b>left out</b>
are shown, and nothing rests on them: the first frame after a renderer's start, and those that you leave out yourself
(Edit, Leave out or take in). A timed <b>region</b> counts with its share of the frame. Times that do not agree with
each other are marked <b>apart</b>, and there is no verdict until one of them was timed again.</p>"""

JUDGE = """<h3>Judge: what can be seen, and what passes</h3>
<p>Choose two pictures above: trials of the shot, or any files; pictures dropped here are shown and become no trials.
Look at them <b>split</b> by a line that you drag, <b>next to each other</b>, <b>swapped</b> in place, or their
<b>difference</b>. The wheel zooms, dragging moves; drag with Shift for a <b>region</b> with numbers of its own.</p>
<p><b>Error</b> is the root mean square difference to the reference, the cleanest trial of the frame, in levels of an
8-bit display (0 to 255), without what noise the reference itself has. It is made of <b>grain</b>, of
<b>softening</b> (what a
denoiser washes out) and of <b>scaling</b> (rendering smaller). The brackets hold 90 in 100. Where a number needs
another picture, it says which.</p>
<p>Mark what is <b>good enough</b> and what is not: the error limit of the shot is the largest error that passed. Blind
mode hides which is which until you have marked.</p>
<p><b>Ladder sheet</b>: every trial of the frame, the same part of each; click two to compare them. Files with numbers
in their names, and trials of several frames with the same settings, play as <b>sequences</b>. <b>Error by samples</b>
predicts what settings would leave that were never rendered.</p>"""

TRADE = """<h3>Trade: what to give up, and for how many hours</h3>
<p>Drag a <b>lever</b>: hours, chance and the predicted look follow. Under it stands what one step down (◂) or up (▸)
does, in machine-hours and levels of error. Several shots picked on the strip move together. <b>Hold</b> keeps a lever
where it stands when a plan is looked for. <b>Best steps</b> names the steps that save most for the least error.</p>
<p><b>What hours buy</b>: every way to render the shot as a dot. Click one to take it, or drag along the line of the
best. The brick lines are the error limit and the hours that the other shots leave.</p>
<p><b>Find the best plan</b> keeps the worst error as low as the deadline allows, as surely as asked;
<b>cheapest that passes</b> for the fewest hours under every error limit; <b>what it lacks</b> for the hours that both
would take. Where nothing is marked in Judge, the error as asked is the error limit. Nothing changes until you adopt a
plan. Where no error was measured, a plan takes what passes by eye, and else what was asked.</p>
<p><b>By eye</b>: mark what you saw, here as the levers stand or trials in Trials. What is at least as good as something
that passed passes too; what is at least as bad as something refused does not. <b>Try a way on paper</b> takes a guess
of what settings take. <b>Two ways</b> puts any two side by side, to be copied, kept and written.</p>
<p>The <b>predicted look</b> is made of the reference and what a trial was measured to err by, in proportion: it is no
render.</p>"""

RUN_SHEET = """<h3>Run sheet: who renders when</h3>
<p>Every frame of the film is run on its machines a thousand times; what is drawn is the run whose end is the middle
one. A machine that is free takes the next frame of the first shot that it can. Dots are frames that fill caches,
crosses frames that broke; a strip of paper along the top marks frames again and other passes. White is free and idle.
Rest the mouse on a run to read its frame; Ctrl and the wheel, or + and -, come closer, dragging moves along.</p>
<p><b>Hours</b>: drag the ends of a machine's hours; double-click where it is closed to open that night or day; more
with the right button. Each changes that date only; the week stands in the brief. <b>Order</b>: drag the shots above
the machines, or choose a rule. The verdict follows while you drag, from a few runs, and a moment later from all.</p>
<p><b>What would it take</b>: the fewest more machines, nights or days with which the deadline is as sure
as asked; and how many hours of which rented machine. <b>Try it</b> puts them in; keep or drop them afterwards. Machines
of which there are none yet, with a price, a most and most hours in the brief, can be rented too.</p>
<p><b>Cached between frames</b>: each machine works the first frame out whole, and keeps what does not change. Where
something that is kept moves, the pictures would be wrong: such lines are in brick.</p>"""

WATCH = """<h3>Watch: what has come in, and when the rest is done</h3>
<p>Say <b>where frames arrive</b>: a pattern such as renders/{shot}/{shot}.{frame:04}.exr. Pemlo looks there every two
seconds and never writes there. Each frame is one mark: hollow, not there yet; half filled, being written; solid, in,
the stronger the longer it took; a cross, lost or broken; a ring, to be rendered again. Rest the mouse on a mark to
read it, click it to see its picture, drag over marks to pick a range; Ctrl+C copies it,
Space plays it.</p>
<p>What a frame took is read from its <b>header</b>, else from a <b>log</b> in one line of which you marked what is
what, else from the <b>times of files</b>. Every frame counts: the finish, with the interval that holds 9 in 10, rests
on all of them, on how fast machines really are, and on what they lose. The line below says how it moved, and beside it
why.</p>
<p><b>What is wrong</b>: broken and lost frames with the range to render again, machines that are slow or silent, shots
that take more than was predicted. <b>Plan the rest</b> opens Trade with the frames that are left. The <b>small farm</b>
renders the film for a try, by a clock of its own.</p>"""

HAND_OVER = """<h3>Hand-over: checked before the launch, explained to everybody, delivered at the end</h3>
<p>Left, what the <b>checks</b> found: what is wrong comes first, in a sentence, with a button that fixes it where Pemlo
can; then what is not known and what would tell. Each shot has a mark: solid, ready; hollow with a dot, ready as far as
is known; a cross, not ready. Lines of your own are ticked off here.</p>
<p>In the middle, <b>the launch</b>: what the renderer is really set to, typed, pasted, read from a table, or from the
header of a frame. A ◆ marks what is not as planned. As long as nothing is typed, the plan itself is checked. Render
<b>the first frame</b> of a shot with launch settings, and it is held against the plan: size, layers, time, noise,
colours.</p>
<p>Right, what can be <b>handed over</b>: look at each, tick what you usually hand over, and write all of it into a
folder. Command lines come from a template of your own and are never run. The <b>review movie</b> is made of finished or
trial frames, with slates for missing frames. The <b>whole project</b> goes into a folder that opens elsewhere.</p>"""
