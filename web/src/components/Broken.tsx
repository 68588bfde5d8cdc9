/** What is shown in the place of a screen that failed. */
import { Component, type ReactNode } from "react";

import { Trouble } from "./Said";

interface Props {
  /** Another one is another screen: it is tried anew. */
  place: string;
  children: ReactNode;
}

export class Broken extends Component<Props, { error: Error | null }> {
  state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  componentDidUpdate(before: Props) {
    if (before.place !== this.props.place && this.state.error) this.setState({ error: null });
  }

  render() {
    if (!this.state.error) return this.props.children;
    const said = new Error(
      `This screen failed (${this.state.error.message}). That is a fault of the program; nothing that was stored is lost. Try again, or load the page anew.`,
    );
    return <Trouble error={said} again={() => this.setState({ error: null })} />;
  }
}
