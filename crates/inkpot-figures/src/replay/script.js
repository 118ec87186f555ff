"use strict";
(() => {
  const SEATS = 6;
  const LETTERS = 0.72; // of the size of a type
  const TRAIL_S = 12;
  const TRAIL_TURNS = 3;
  const TURNS_PER_SECOND = 1;
  const controls = document.querySelector(".controls");
  const when = document.getElementById("when");
  const speed = document.getElementById("speed");
  const help = document.getElementById("help");
  const dark = matchMedia("(prefers-color-scheme: dark)");
  const state = { at: 0, playing: false, last: 0, trails: false, sights: new Set() };
  let films = [];
  let colours = {};

  const element = (name, className, text) => {
    const made = document.createElement(name);
    if (className) made.className = className;
    if (text !== undefined) made.textContent = text;
    return made;
  };

  const plain = (value) => String(Number(value.toFixed(2)));

  // Sums up distances.
  const sums = (steps) => {
    let sum = 0;
    return steps.map((step) => (sum += step));
  };

  // What was said at a tick or last before it.
  const said = (own) => {
    let tick = 0;
    const at = own.at.map(([apart, what]) => [(tick += apart), what]);
    return { at, text: (index) => (index < 0 ? null : own.all[at[index][1]]) };
  };
  const lastAt = (entries, tick) => {
    let [low, high] = [0, entries.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (entries[middle][0] <= tick) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  };

  // A reel unpacked: any picture is a list of shapes in units of the scene.
  const NUMBERS = { l: 6, r: 5, c: 4, o: 4, t: 5 };
  class Reel {
    constructor(stored) {
      this.step = stored.step;
      this.texts = stored.texts;
      this.runs = [];
      let from = 0;
      for (const run of stored.runs) {
        const columns = run.columns.map((column) => (Array.isArray(column) ? Int32Array.from(sums(column)) : column));
        const kinds = [...run.kinds.matchAll(/a(\d+)\.|[lrcot]/g)].map((kind) => ({ kind: kind[0][0], corners: Number(kind[1] || 0) }));
        this.runs.push({ from, count: run.count, kinds, columns });
        from += run.count;
      }
    }
    picture(index) {
      const run = this.runs.find((own) => index < own.from + own.count);
      if (!run) return { window: [0, 0, 1, 1], shapes: [] };
      const raw = (place) => (typeof run.columns[place] === "number" ? run.columns[place] : run.columns[place][index - run.from]);
      const number = (place) => raw(place) * this.step;
      const window = [0, 1, 2, 3].map(number);
      let place = 4;
      const shapes = run.kinds.map(({ kind, corners }) => {
        const size = kind === "a" ? 2 * corners + 1 : NUMBERS[kind];
        const own = { kind, numbers: [], paint: raw(place + size - 1), text: null };
        const lengths = kind === "t" ? 3 : size - 1;
        for (let at = 0; at < lengths; at += 1) own.numbers.push(number(place + at));
        if (kind === "t") own.text = this.texts[raw(place + 3)];
        place += size;
        return own;
      });
      return { window, shapes };
    }
  }

  const paintOf = (paint) => [colours.ground, colours.faint, colours.signal, colours.ink][paint] || colours.seats[(paint - 4) % SEATS];

  const readColours = () => {
    const style = getComputedStyle(document.documentElement);
    const own = (name) => style.getPropertyValue(name).trim();
    colours = Object.fromEntries(["ground", "faint", "signal", "ink", "paper", "grid", "axis", "caption", "lull", "mark"].map((name) => [name, own("--" + name)]));
    colours.seats = Array.from({ length: SEATS }, (_, seat) => own("--seat-" + seat));
  };

  // A canvas as large as it is shown, whose units are those of the page.
  const surface = (canvas, height) => {
    const width = canvas.clientWidth || 300;
    const dense = window.devicePixelRatio || 1;
    if (height) canvas.style.height = height + "px";
    const high = height || canvas.clientHeight;
    canvas.width = Math.round(width * dense);
    canvas.height = Math.round(high * dense);
    const context = canvas.getContext("2d");
    context.setTransform(dense, 0, 0, dense, 0, 0);
    context.clearRect(0, 0, width, high);
    return { context, width, height: high };
  };

  const drawShape = (context, map, shape) => {
    const { kind, numbers, paint } = shape;
    const at = (index) => map.at(numbers[index], numbers[index + 1]);
    context.fillStyle = context.strokeStyle = paintOf(paint);
    context.beginPath();
    if (kind === "l") {
      context.lineWidth = Math.max(1, numbers[4] * map.scale);
      context.lineCap = "round";
      context.moveTo(...at(0));
      context.lineTo(...at(2));
      context.stroke();
    } else if (kind === "r") {
      const [left, bottom] = at(0);
      const [right, top] = at(2);
      context.fillRect(left, top, right - left, bottom - top);
    } else if (kind === "c" || kind === "o") {
      if (numbers[2] <= 0) return;
      context.arc(...at(0), numbers[2] * map.scale, 0, 2 * Math.PI);
      context.lineWidth = 1.6;
      if (kind === "c") context.fill();
      else context.stroke();
    } else if (kind === "a") {
      for (let corner = 0; corner < numbers.length; corner += 2) context.lineTo(...at(corner));
      context.closePath();
      context.fill();
    } else if (shape.text) {
      const size = Math.min(60, Math.max(10, (numbers[2] * map.scale) / LETTERS));
      context.font = `600 ${size}px "Inkpot Sans", sans-serif`;
      context.textAlign = "center";
      context.textBaseline = "alphabetic";
      const [x, y] = at(0);
      context.fillText(shape.text, x, y + (size * LETTERS) / 2);
    }
  };

  // Filled circles that are elsewhere in the next picture, each with where it goes: what stays, stays.
  const moves = (now, next) => {
    const key = (shape) => shape.numbers.map((number) => number.toFixed(4)).join() + "/" + shape.paint;
    const circles = (shapes) => shapes.filter((shape) => shape.kind === "c" && shape.numbers[2] > 0);
    const there = new Map();
    for (const shape of circles(next)) there.set(key(shape), (there.get(key(shape)) || 0) + 1);
    const leaving = [];
    for (const shape of circles(now)) {
      const left = there.get(key(shape)) || 0;
      if (left > 0) there.set(key(shape), left - 1);
      else leaving.push(shape);
    }
    const coming = circles(next).filter((shape) => {
      const left = there.get(key(shape)) || 0;
      if (left > 0) there.set(key(shape), left - 1);
      return left > 0;
    });
    return new Map(leaving.slice(0, coming.length).map((shape, index) => [shape, coming[index]]));
  };

  class Film {
    constructor(article, data) {
      this.article = article;
      this.data = data;
      this.turns = data.about.per_second === null;
      this.ticks = sums(data.ticks);
      this.last = data.last;
      this.scene = new Reel(data.scene);
      this.seats = data.seats.map((seat, index) => ({
        ...seat,
        about: data.about.seats[index],
        reel: new Reel(seat.sight),
        said: said(seat.choices),
        weighed: said(seat.minds),
      }));
      const decisions = this.seats.flatMap((seat) => seat.said.at.map(([tick]) => tick));
      this.decisions = [...new Set(decisions)].sort((a, b) => a - b);
      this.positions = said(data.positions);
      this.scores = data.scores.slice(1).map(([tick]) => tick);
      this.panels();
    }

    // Ticks in a second of the page at speed 1.
    get pace() {
      return this.turns ? TURNS_PER_SECOND : this.data.about.per_second;
    }

    frame(tick) {
      let [low, high] = [0, this.ticks.length];
      while (low < high) {
        const middle = (low + high) >> 1;
        if (this.ticks[middle] <= tick) low = middle + 1;
        else high = middle;
      }
      return Math.max(0, low - 1);
    }

    time(tick) {
      return this.turns ? `turn ${tick}` : `${(tick / this.data.about.per_second).toFixed(1)} s`;
    }

    panels() {
      const { article, data } = this;
      const facts = element("dl", "facts");
      for (const [name, value] of data.about.facts) {
        const pair = element("div");
        pair.append(element("dt", "", name), element("dd", "", value));
        facts.append(pair);
      }
      this.position = element("p", "position");
      this.position.hidden = data.positions.at.length === 0;
      article.querySelector(".notes").append(this.position, facts, ...data.notes.map((note) => element("p", "", note)));
      const seats = article.querySelector(".seats");
      this.seats.forEach((seat, index) => {
        const panel = element("section", "seat");
        panel.style.setProperty("--seat", `var(--seat-${index % SEATS})`);
        panel.setAttribute("aria-label", seat.about.name);
        const head = element("header");
        seat.scoreShown = element("span", "score");
        head.append(element("h3", "", seat.about.name), seat.scoreShown, element("span", "agent", seat.about.agent));
        seat.choice = element("p", "choice");
        panel.append(head, seat.choice);
        if (data.seats[index].sight.runs.some((run) => run.kinds)) {
          const label = element("label");
          seat.box = element("input");
          seat.box.type = "checkbox";
          seat.box.addEventListener("change", () => sight(index, seat.box.checked));
          label.append(seat.box, `Show what it perceives (${index + 1})`);
          panel.append(label);
        }
        if (seat.weighed.at.length > 0) {
          seat.mind = element("details");
          seat.mind.open = true;
          seat.mindBody = element("div");
          seat.mind.append(element("summary", "", "What it weighs"), seat.mindBody);
          panel.append(seat.mind);
        }
        if (seat.measures.length > 0) {
          const box = element("details");
          const table = element("table");
          const body = element("tbody");
          seat.cells = seat.about.measures.map((name) => {
            const row = element("tr");
            const cell = element("td", "number");
            row.append(element("td", "", name), cell);
            body.append(row);
            return cell;
          });
          table.append(body);
          box.append(element("summary", "", "Measures so far"), table);
          panel.append(box);
        }
        seats.append(panel);
      });
      article.querySelector(".timeline canvas").addEventListener("pointerdown", (event) => {
        const box = event.currentTarget.getBoundingClientRect();
        pause();
        go(Math.round(((event.clientX - box.left) / box.width) * this.last));
      });
    }

    layout() {
      const [left, low, right, high] = this.scene.picture(0).window;
      this.pictured = this.scene.runs.some((run) => run.kinds.length > 0);
      this.article.classList.toggle("tall", this.pictured && (right - left) / (high - low) < 3.2);
      this.article.querySelector(".stage").hidden = !this.pictured;
      this.article.querySelector(".timeline").hidden = false;
    }

    draw(at) {
      const tick = Math.min(Math.floor(at), this.last);
      const index = this.frame(tick);
      this.tick = tick;
      if (this.pictured) this.stage(at, index);
      this.timeline(Math.min(at, this.last));
      this.tell(tick);
    }

    stage(at, index) {
      const canvas = this.article.querySelector(".scene");
      const { window: view, shapes } = this.scene.picture(index);
      const [left, low, right, high] = view;
      const ratio = (high - low) / (right - left);
      const most = Math.max(240, window.innerHeight * 0.54);
      const height = Math.min(most, canvas.clientWidth * ratio);
      const { context, width } = surface(canvas, Math.round(height));
      const scale = Math.min(width / (right - left), height / (high - low));
      const aside = (width - scale * (right - left)) / 2;
      const map = { scale, at: (x, y) => [aside + (x - left) * scale, height - (y - low) * scale] };
      if (state.trails) this.trails(context, map, index);
      // In a game of turns what moves is seen moving on the way to the next picture.
      const part = at - Math.floor(at);
      const moving = this.turns && part > 0.4 && index + 1 < this.ticks.length ? moves(shapes, this.scene.picture(index + 1).shapes) : new Map();
      const along = Math.min(1, Math.max(0, (part - 0.4) / 0.6));
      for (const shape of shapes) {
        const to = moving.get(shape);
        const between = (place) => shape.numbers[place] + along * (to.numbers[place] - shape.numbers[place]);
        drawShape(context, map, to ? { ...shape, numbers: [between(0), between(1), shape.numbers[2]] } : shape);
      }
      this.seats.forEach((seat, own) => {
        if (!state.sights.has(own)) return;
        context.globalAlpha = 0.5;
        for (const shape of seat.reel.picture(index).shapes) drawShape(context, map, shape);
        context.globalAlpha = 1;
      });
      canvas.setAttribute("aria-label", `The scene at ${this.time(this.tick)}`);
    }

    trails(context, map, index) {
      const length = this.turns ? TRAIL_TURNS : TRAIL_S * this.data.about.per_second;
      const from = this.frame(this.ticks[index] - length);
      this.seats.forEach((seat, own) => {
        if (seat.places.length !== this.ticks.length) return;
        context.strokeStyle = colours.seats[own % SEATS];
        context.globalAlpha = 0.45;
        context.lineWidth = 2;
        context.beginPath();
        for (let at = from; at <= index; at += 1) context.lineTo(...map.at(...seat.places[at].map((own) => own * this.scene.step)));
        context.stroke();
        context.globalAlpha = 1;
      });
    }

    timeline(at) {
      const canvas = this.article.querySelector(".timeline canvas");
      const { context, width, height } = surface(canvas);
      const rows = 9 * this.seats.length;
      const base = height - rows - 18;
      const x = (tick) => (tick / Math.max(1, this.last)) * (width - 2) + 1;
      context.font = '400 13px "Inkpot Sans", sans-serif';
      context.textBaseline = "alphabetic";
      if (this.data.end.lull) {
        const [from, to] = this.data.end.lull;
        context.fillStyle = colours.lull;
        context.fillRect(x(from), 4, x(to) - x(from), base - 4);
      }
      const values = this.data.scores.flatMap(([, scores]) => scores);
      const [least, most] = [Math.min(0, ...values), Math.max(1, ...values)];
      const y = (score) => base - ((score - least) / (most - least)) * (base - 12);
      context.lineWidth = 1;
      context.strokeStyle = colours.grid;
      context.strokeRect(0.5, 4.5, width - 1, base - 4);
      this.seats.forEach((seat, own) => {
        context.strokeStyle = colours.seats[own % SEATS];
        context.lineWidth = 2.4 - 0.8 * (own % 2);
        context.beginPath();
        let before = 0;
        for (const [tick, scores] of this.data.scores) {
          context.lineTo(x(tick), y(before));
          context.lineTo(x(tick), y(scores[own]));
          before = scores[own];
        }
        context.lineTo(x(this.last), y(before));
        context.stroke();
        const row = base + 5 + 9 * own;
        context.fillStyle = colours.seats[own % SEATS];
        context.globalAlpha = Math.max(0.15, Math.min(1, width / (2 * seat.said.at.length + 1)));
        for (const [tick] of seat.said.at) context.fillRect(x(tick), row, 1, 6);
        context.globalAlpha = 1;
        context.strokeStyle = colours.signal;
        context.lineWidth = 2;
        for (const tick of seat.faults) {
          context.beginPath();
          context.moveTo(x(tick) - 4, row - 1);
          context.lineTo(x(tick) + 4, row + 7);
          context.moveTo(x(tick) + 4, row - 1);
          context.lineTo(x(tick) - 4, row + 7);
          context.stroke();
        }
      });
      context.strokeStyle = colours.ink;
      context.lineWidth = 1.5;
      context.beginPath();
      context.moveTo(x(at), 0);
      context.lineTo(x(at), base + 5 + rows);
      context.stroke();
      context.fillStyle = colours.caption;
      context.textAlign = "left";
      const has = { faults: this.seats.some((seat) => seat.faults.length > 0), lull: this.data.end.lull };
      const long = `score, then the decisions of each seat${has.faults ? "; crosses are faults" : ""}${has.lull ? "; shaded: the longest lull" : ""}`;
      const short = `score, decisions${has.faults ? "; crosses: faults" : ""}${has.lull ? "; shaded: longest lull" : ""}`;
      const end = this.time(this.last);
      const wide = (text) => context.measureText(text).width;
      context.fillText(wide(long) + wide(end) + 12 < width ? long : short, 0, height - 3);
      context.textAlign = "right";
      context.fillText(end, width, height - 3);
      canvas.setAttribute("aria-label", `Scores and decisions from the start to ${this.time(this.last)}`);
    }

    tell(tick) {
      const [, scores, by] = this.data.scores[Math.max(0, lastAt(this.data.scores, tick))];
      const scored = by ? ` (${by})` : "";
      const over = tick >= this.last ? `. ${this.data.end.sentence}` : "";
      const moment = `${this.time(tick)}, ${scores.map(plain).join(" : ")}${scored}${over}`;
      const shown = this.article.querySelector(".moment");
      shown.setAttribute("aria-live", state.playing ? "off" : "polite");
      if (shown.textContent !== moment) shown.textContent = moment;
      this.position.textContent = `Position ${this.positions.text(lastAt(this.positions.at, tick))}`;
      this.article.dataset.tick = tick;
      this.article.dataset.scored = this.scores.filter((own) => own <= tick).length;
      this.seats.forEach((seat, own) => {
        seat.scoreShown.textContent = plain(scores[own]);
        const index = lastAt(seat.said.at, tick);
        const now = index >= 0 && seat.said.at[index][0] === tick;
        const text = index < 0 ? "" : this.turns && !now ? `Last chose ${seat.said.text(index)}` : `Chooses ${seat.said.text(index)}`;
        if (seat.choice.textContent !== text) seat.choice.textContent = text;
        if (seat.mind) this.mind(seat, lastAt(seat.weighed.at, tick));
        if (seat.cells) {
          const [, values] = seat.measures[Math.max(0, lastAt(seat.measures, tick))];
          seat.cells.forEach((cell, place) => {
            const value = values[place];
            cell.textContent = value === null || value === undefined ? "-" : plain(value);
          });
        }
      });
    }

    mind(seat, index) {
      if (seat.mindShown === index) return;
      seat.mindShown = index;
      const mind = seat.weighed.text(index);
      seat.mindBody.replaceChildren();
      if (!mind) return;
      const box = element("div", "scroll");
      const table = element("table");
      const head = element("tr");
      for (const [name, className] of [["Option", ""], ["Value", "number"], ["Looked at", ""], ["Line", ""]]) {
        const cell = element("th", className, name);
        cell.scope = "col";
        head.append(cell);
      }
      const body = element("tbody");
      for (const own of mind.options) {
        const row = element("tr", own.chosen ? "chosen" : "");
        row.append(element("td", "", own.option), element("td", "number", own.value), element("td", "", own.tried), element("td", "", own.line));
        body.append(row);
      }
      const top = element("thead");
      top.append(head);
      table.append(top, body);
      if (mind.options.length > 0) box.append(table);
      seat.mindBody.append(box, ...mind.steps.map((step) => element("p", "spent", step)));
      if (mind.spent) seat.mindBody.append(element("p", "spent", mind.spent));
    }
  }

  const last = () => Math.max(...films.map((film) => film.last));
  const draw = () => {
    for (const film of films) film.draw(state.at);
    when.value = String(Math.floor(state.at));
    when.setAttribute("aria-valuetext", films[0].time(Math.floor(state.at)));
  };
  const go = (tick) => {
    state.at = Math.min(last(), Math.max(0, tick));
    draw();
  };
  const shown = () => {
    const button = controls.querySelector('[data-act="play"]');
    button.textContent = state.playing ? "Pause" : "Play";
    document.body.dataset.playing = state.playing;
  };
  const pause = () => {
    state.playing = false;
    shown();
  };
  const play = () => {
    if (state.at >= last()) state.at = 0;
    state.playing = true;
    state.before = performance.now();
    shown();
    requestAnimationFrame(run);
  };
  const run = (now) => {
    if (!state.playing) return;
    const seconds = Math.min(0.25, (now - state.before) / 1000);
    state.before = now;
    state.at = Math.min(last(), state.at + seconds * films[0].pace * Number(speed.value));
    draw();
    if (state.at >= last()) {
      pause();
      draw();
    } else requestAnimationFrame(run);
  };
  const sight = (seat, on) => {
    if (on) state.sights.add(seat);
    else state.sights.delete(seat);
    for (const film of films) {
      const box = film.seats[seat] && film.seats[seat].box;
      if (box) box.checked = on;
    }
    draw();
  };
  // The nearest of these moments before or after now, over all matches.
  const near = (which, way) => {
    const now = Math.floor(state.at);
    const all = films.flatMap((film) => film[which]);
    const beyond = all.filter((tick) => (way > 0 ? tick > now : tick < now));
    if (beyond.length === 0) return way > 0 ? last() : 0;
    return way > 0 ? beyond.reduce((a, b) => Math.min(a, b)) : beyond.reduce((a, b) => Math.max(a, b));
  };
  const faster = (by) => {
    speed.selectedIndex = Math.min(speed.options.length - 1, Math.max(0, speed.selectedIndex + by));
  };
  const still = (tick) => {
    pause();
    go(tick);
  };
  const toggled = (act, on) => controls.querySelector(`[data-act="${act}"]`).setAttribute(act === "help" ? "aria-expanded" : "aria-pressed", String(on));
  const acts = {
    start: () => still(0),
    end: () => still(last()),
    play: () => (state.playing ? pause() : play()),
    step: () => still(Math.floor(state.at) + 1),
    "step-back": () => still(Math.ceil(state.at) - 1),
    decision: () => still(near("decisions", 1)),
    "decision-back": () => still(near("decisions", -1)),
    score: () => still(near("scores", 1)),
    "score-back": () => still(near("scores", -1)),
    faster: () => faster(1),
    slower: () => faster(-1),
    trails: () => {
      state.trails = !state.trails;
      toggled("trails", state.trails);
      draw();
    },
    help: () => {
      help.hidden = !help.hidden;
      toggled("help", !help.hidden);
    },
  };
  const KEYS = {
    " ": "play", k: "play", ArrowRight: "step", ArrowLeft: "step-back", "]": "decision", "[": "decision-back",
    n: "score", p: "score-back", Home: "start", End: "end", "+": "faster", "=": "faster", "-": "slower", t: "trails", "?": "help",
  };
  const listen = () => {
    controls.addEventListener("click", (event) => {
      const act = event.target.dataset && event.target.dataset.act;
      if (act) acts[act]();
    });
    when.addEventListener("input", () => still(Number(when.value)));
    document.addEventListener("keydown", (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.target.tagName === "SELECT") return;
      // A button that has the focus is pressed by its own keys.
      if (event.key === " " && ["BUTTON", "SUMMARY", "INPUT"].includes(event.target.tagName) && event.target.type !== "range") return;
      const seat = Number(event.key) - 1;
      if (seat >= 0 && films.some((film) => film.seats[seat])) sight(seat, !state.sights.has(seat));
      else if (KEYS[event.key]) acts[KEYS[event.key]]();
      else return;
      event.preventDefault();
    });
    const again = () => {
      readColours();
      draw();
    };
    dark.addEventListener("change", again);
    window.addEventListener("resize", draw);
    window.addEventListener("beforeprint", () => {
      document.documentElement.classList.add("printing");
      for (const own of document.querySelectorAll("details")) own.open = true;
      again();
    });
    window.addEventListener("afterprint", () => {
      document.documentElement.classList.remove("printing");
      again();
    });
  };

  const unpacked = async (article) => {
    const packed = Uint8Array.from(atob(article.querySelector(".data").textContent), (letter) => letter.charCodeAt(0));
    const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("deflate"));
    return new Film(article, JSON.parse(await new Response(stream).text()));
  };
  (async () => {
    const began = performance.now();
    films = await Promise.all([...document.querySelectorAll(".film")].map(unpacked));
    await document.fonts.ready;
    readColours();
    controls.hidden = false;
    for (const film of films) film.layout();
    when.max = String(last());
    listen();
    draw();
    document.body.dataset.opened = Math.round(performance.now() - began);
  })();
})();
