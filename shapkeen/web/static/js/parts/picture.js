// @ts-check
// Fetches a picture that the server draws; where it cannot, with the server's own words.
// Waits where the connection is lost. Needs: connection.js.
window.skPicture = function (address, name) {
  return fetch(address).then((answer) => {
    if (answer.ok) return answer.blob();
    return answer.text().then((words) => {
      const told = (answer.headers.get("Content-Type") || "").startsWith("text/plain");
      throw new Error(told ? words : `${name} could not be drawn`);
    });
  }, () => window.skConnection.returned().then(() => "again")).then((blob) => {
    if (typeof blob === "string") return window.skPicture(address, name);
    return new Promise((resolve, reject) => {
      const picture = new Image(), place = URL.createObjectURL(blob);
      picture.onload = () => { URL.revokeObjectURL(place); resolve(picture); };
      picture.onerror = () => { URL.revokeObjectURL(place); reject(new Error(`${name} could not be drawn`)); };
      picture.src = place;
    });
  });
};
