import { createContext, useContext } from "react";

interface Frame {
  find: () => void;
  help: () => void;
}

export const FrameContext = createContext<Frame>({ find: () => undefined, help: () => undefined });
export const useFrame = () => useContext(FrameContext);
