import { Component, type ReactNode } from "react";

interface Props {
  /** What stands here, as it is called where it fails. */
  what: string;
  /** What is shown in it: another one is tried anew. */
  of?: string;
  children: ReactNode;
}

/** A part of the bench that may fail without taking the others along: it says so, and can be tried again. */
export class Standing extends Component<Props, { error: Error | null }> {
  override state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override componentDidUpdate(before: Props) {
    if (before.of !== this.props.of && this.state.error) this.setState({ error: null });
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <div className="standing" role="alert">
        <b>{this.props.what} cannot be shown.</b> The rest of the bench works, and the review is as it was. What went
        wrong: {error.message}{" "}
        <button type="button" className="ghost" onClick={() => this.setState({ error: null })}>
          Try again
        </button>
      </div>
    );
  }
}
