// The camera as a scanner: a small frame goes to the server until one shows a code; no frame is kept anywhere.
const start = document.getElementById("scan-start");

if (start && navigator.mediaDevices?.getUserMedia) {
  const frame = document.getElementById("scan");
  const video = document.getElementById("scan-video");
  const said = document.getElementById("scan-said");
  const form = document.getElementById("scan-form");
  const WIDTH = 960;
  const PAUSE_MS = 500;
  start.hidden = false;

  const shot = () => {
    const canvas = document.createElement("canvas");
    canvas.width = Math.min(WIDTH, video.videoWidth);
    canvas.height = Math.round((video.videoHeight * canvas.width) / video.videoWidth);
    canvas.getContext("2d").drawImage(video, 0, 0, canvas.width, canvas.height);
    return new Promise((resolve) => canvas.toBlob(resolve, "image/jpeg", 0.8));
  };
  const read = async () => {
    const sent = new FormData(form);
    sent.set("photo", await shot(), "frame.jpg");
    const answer = await fetch(form.action, { method: "POST", body: sent, headers: { accept: "application/json" } });
    if (!answer.ok) throw new Error(answer.status);
    return answer.json();
  };
  const look = async (stream) => {
    while (stream.active) {
      try {
        const { to, words } = await read();
        if (to) {
          for (const track of stream.getTracks()) track.stop();
          location.assign(to);
          return;
        }
        said.textContent = words || "Hold the code in the picture.";
      } catch {
        said.textContent = "No connection: the code is read on the server. Search by name meanwhile.";
      }
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    }
  };
  start.addEventListener("click", async () => {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" }, audio: false });
      video.srcObject = stream;
      frame.hidden = false;
      start.hidden = true;
      await video.play();
      look(stream);
    } catch {
      frame.hidden = false;
      said.textContent = "The camera cannot be opened here. Take a photo below instead.";
    }
  });
}
