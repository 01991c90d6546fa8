// A clip: some seconds of picture and sound, recorded small here, so that it leaves on a weak signal too, without a place.
const MOST_SECONDS = 30;
const MOST_WIDE = 960; // of the still, which goes along as text
const SMALL = { width: { ideal: 640 }, height: { ideal: 480 }, frameRate: { ideal: 24, max: 30 }, facingMode: "environment" };
const BITS = { videoBitsPerSecond: 900_000, audioBitsPerSecond: 96_000 };
// MP4 plays anywhere.
const SORTS = ["video/mp4;codecs=avc1.42E01E,mp4a.40.2", "video/mp4", "video/webm;codecs=vp8,opus", "video/webm"];

const opened = async () => {
  const { mediaDevices } = navigator;
  try { return await mediaDevices.getUserMedia({ video: SMALL, audio: true }); } catch (error) {
    if (error.name !== "NotFoundError") throw error;
    return mediaDevices.getUserMedia({ video: SMALL, audio: false }); // no microphone: what it looks like is worth having
  }
};

const close = (stream) => stream.getTracks().forEach((track) => track.stop());

const still = (video) => {
  const canvas = document.createElement("canvas");
  const scale = Math.min(1, MOST_WIDE / Math.max(video.videoWidth, video.videoHeight)); // some cameras know no smaller picture
  canvas.width = Math.max(1, Math.round(video.videoWidth * scale));
  canvas.height = Math.max(1, Math.round(video.videoHeight * scale));
  canvas.getContext("2d").drawImage(video, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL("image/jpeg", 0.8);
};

const block = document.getElementById("clip");
const records = "MediaRecorder" in globalThis && navigator.mediaDevices;
const sort = records && SORTS.find((one) => MediaRecorder.isTypeSupported(one));

if (block && sort) {
  const form = block.closest("form");
  const [button, video, said] = ["button", "video", "p"].map((name) => block.querySelector(name));
  const begin = button.textContent;
  let recorder = null, url = "";
  block.hidden = false;

  const stop = () => { if (recorder?.state === "recording") recorder.stop(); };
  const clear = () => {
    video.hidden = true;
    video.removeAttribute("src");
    video.srcObject = null;
    URL.revokeObjectURL(url);
    button.textContent = begin;
    said.textContent = "";
    form.elements.still.value = form.elements.seconds.value = "";
  };
  const shown = (blob, seconds) => {
    const file = new File([blob], `clip.${sort.slice(6, 10).replace(";", "")}`, { type: blob.type });
    const files = new DataTransfer();
    files.items.add(file);
    form.elements.photo.files = files.files;
    form.elements.seconds.value = seconds.toFixed(1);
    url = URL.createObjectURL(blob);
    video.srcObject = null;
    video.src = url;
    video.muted = false;
    video.controls = true;
    button.textContent = "Record it again";
    said.textContent = `${Math.round(seconds)} s recorded. Look at it, say what it shows, and keep it.`;
  };
  const record = async (stream) => {
    video.controls = false;
    video.muted = true;
    video.hidden = false;
    video.srcObject = stream;
    await video.play();
    const parts = [], since = Date.now();
    const gone = () => Math.min((Date.now() - since) / 1000, MOST_SECONDS);
    recorder = new MediaRecorder(stream, { mimeType: sort, ...BITS });
    recorder.ondataavailable = ({ data }) => parts.push(data);
    const tick = setInterval(() => {
      button.textContent = `Stop, ${Math.ceil(MOST_SECONDS - gone())} s left`;
      if (gone() >= MOST_SECONDS) stop();
    }, 200);
    recorder.onstop = () => {
      clearInterval(tick);
      const seconds = gone();
      form.elements.still.value = still(video);
      close(stream);
      recorder = null;
      shown(new Blob(parts, { type: sort.split(";")[0] }), seconds);
    };
    recorder.start(1000);
  };

  button.addEventListener("click", async () => {
    if (recorder) { stop(); return; }
    clear();
    button.disabled = true; // until it is asked whether the camera may be opened
    let stream = null;
    try {
      stream = await opened();
      await record(stream);
    } catch {
      if (stream) close(stream);
      clear();
      said.textContent = "Camera or microphone cannot be opened here. Take a photo instead.";
    }
    button.disabled = false;
  });
  form.addEventListener("reset", clear); // it was kept
  form.elements.photo.addEventListener("change", clear); // a photo was chosen in its place
  document.addEventListener("visibilitychange", () => { if (document.hidden) stop(); });
}
