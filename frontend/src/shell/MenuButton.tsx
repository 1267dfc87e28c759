import { Dropdown, type DropDownProps, type MenuProps } from "antd";
import { cloneElement, useRef, useState, type ReactElement } from "react";
import styles from "./MenuButton.module.css";

interface Props {
  menu: MenuProps;
  /** Called each time it is opened. */
  onOpen?: () => void;
  popupRender?: DropDownProps["popupRender"];
  /** The button. */
  children: ReactElement<React.ComponentProps<"button">>;
}

/**
 * A button with a menu, which takes the keyboard when it opens and gives it back when it closes.
 * There are many of them, so a menu is made when it is first opened.
 */
export function MenuButton({ menu, onOpen, popupRender, children }: Props) {
  const [made, setMade] = useState(false);
  const [open, setOpen] = useState(false);
  const own = useRef<HTMLButtonElement>(null);
  const turn = (next: boolean) => {
    if (next) onOpen?.();
    setMade(true);
    setOpen(next);
    if (next) return;
    // The focused item disappears. Its key press must end first, or it would open the menu again.
    setTimeout(() => {
      const at = document.activeElement;
      if (at === document.body || at?.closest(".ant-dropdown")) own.current?.focus();
    });
  };
  const button = cloneElement(children, {
    ref: own,
    "aria-haspopup": "menu",
    "aria-expanded": open,
    autoFocus: made,
    ...(made ? {} : { onClick: () => turn(true) }),
  });
  if (!made) return button;
  return (
    <Dropdown
      trigger={["click"]}
      autoFocus
      open={open}
      onOpenChange={turn}
      menu={menu}
      {...(popupRender ? { popupRender } : {})}
    >
      {button}
    </Dropdown>
  );
}

interface MoreProps {
  /** The button's label. */
  label: string;
  items: NonNullable<MenuProps["items"]>;
  onPick: (key: string) => void;
  onOpen?: () => void;
}

/** A ⋯ button with all actions of the thing beside it. */
export function MoreMenu({ label, items, onPick, ...more }: MoreProps) {
  return (
    <MenuButton menu={{ items, onClick: ({ key }) => onPick(key) }} {...more}>
      <button className={`bare ${styles.more}`} aria-label={label}>
        ⋯
      </button>
    </MenuButton>
  );
}
