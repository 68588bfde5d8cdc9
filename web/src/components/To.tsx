/** A link to another screen, which takes `sx`. */
import { styled } from "@mui/material/styles";
import { Link } from "react-router";

export const To = styled(Link)({ color: "inherit" });
