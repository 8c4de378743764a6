import { message as antMessage } from 'antd';
import type { MessageInstance } from 'antd/es/message/interface';
import { createContext, type PropsWithChildren, useContext } from 'react';

const MessageContext = createContext<MessageInstance | null>(null);

/** Where short messages stand: one at a time, in the bar, over nothing that is pressed. */
export function Messages({ children }: PropsWithChildren) {
  const [messages, place] = antMessage.useMessage({ maxCount: 1, top: 2 });
  return (
    <MessageContext value={messages}>
      {place}
      {children}
    </MessageContext>
  );
}

/** Says something in short: what an act came to. */
export function useMessages(): MessageInstance {
  const messages = useContext(MessageContext);
  if (!messages) throw new Error('messages have no place here');
  return messages;
}
