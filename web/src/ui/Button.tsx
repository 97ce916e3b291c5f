import type { FC, Ref } from "react";
import { Button as BsButton, type ButtonProps } from "react-bootstrap";

/** React-Bootstrap's button, typed once so that it stays quick to check beside three.js's element types. */
export const Button = BsButton as unknown as FC<ButtonProps & { ref?: Ref<HTMLButtonElement> }>;
