import { jsx } from "./jsx-runtime";

export { Fragment, jsx, type JSX, jsxs } from "./jsx-runtime";
export const jsxDEV = jsx;
