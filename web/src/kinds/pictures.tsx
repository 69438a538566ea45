import type { Picture } from "../api/client";
import { PictureCard } from "../setting/PictureCard";
import type { KindShown } from "./kind";

export const pictures: KindShown<Picture> = {
  entry: (_, picture) => ({ name: picture.name, figure: picture.shown === false ? "hidden" : "picture" }),
  card: ([picture]) => picture && <PictureCard picture={picture} />,
};
