// A signature drawn with finger, pen or mouse: strokes of points in a box of 600 by 200, sent as they were drawn.
const canvas = document.getElementById("sign");

if (canvas) {
  const field = document.getElementById("signature");
  const pen = canvas.getContext("2d");
  const MOST = 6000;
  let strokes = [];
  try {
    strokes = field.value ? JSON.parse(field.value) : [];
  } catch {
    strokes = [];
  }

  const point = (event) => {
    const box = canvas.getBoundingClientRect();
    const within = (share, most) => Math.round(Math.min(1, Math.max(0, share)) * most);
    return [within((event.clientX - box.left) / box.width, 600), within((event.clientY - box.top) / box.height, 200)];
  };
  const draw = () => {
    pen.clearRect(0, 0, canvas.width, canvas.height);
    pen.lineWidth = 3;
    pen.lineCap = pen.lineJoin = "round";
    pen.strokeStyle = getComputedStyle(canvas).color;
    for (const stroke of strokes) {
      pen.beginPath();
      stroke.forEach(([x, y], i) => (i ? pen.lineTo(x, y) : pen.moveTo(x, y)));
      pen.stroke();
    }
    field.value = JSON.stringify(strokes);
  };
  canvas.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    canvas.setPointerCapture(event.pointerId);
    strokes.push([point(event)]);
    const move = (moved) => {
      if (strokes.flat().length < MOST) strokes.at(-1).push(point(moved));
      draw();
    };
    canvas.addEventListener("pointermove", move);
    const end = () => canvas.removeEventListener("pointermove", move);
    canvas.addEventListener("pointerup", end, { once: true });
    canvas.addEventListener("pointercancel", end, { once: true });
    draw();
  });
  const clear = () => {
    strokes = [];
    draw();
  };
  document.getElementById("sign-clear").addEventListener("click", clear);
  canvas.closest("form").addEventListener("reset", () => setTimeout(clear));
  draw();
}
