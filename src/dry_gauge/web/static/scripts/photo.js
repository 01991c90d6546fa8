// A photo leaves here small, and without what the camera wrote into it.
const LONGEST_SIDE = 1600;
export const smaller = async (file) => {
  try {
    const picture = await createImageBitmap(file);
    const scale = Math.min(1, LONGEST_SIDE / Math.max(picture.width, picture.height));
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round(picture.width * scale));
    canvas.height = Math.max(1, Math.round(picture.height * scale));
    canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise((resolve) => canvas.toBlob(resolve, "image/jpeg", 0.82));
    return { blob, name: "photo.jpg" };
  } catch { return { blob: file, name: file.name }; } // the server says what is wrong with it
};
