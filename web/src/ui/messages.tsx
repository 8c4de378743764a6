import { message as antMessage } from 'antd';
import type { MessageInstance } from 'antd/es/message/interface';
import { createContext, type PropsWithChildren, useContext } from 'react';

const MessageContext = createContext<MessageInstance | null>(null);

/** The room that the bar at the top leaves for messages. */
export const MessageRoom = () => <div id="messages" />;

/** Short messages: one at a time, in their room in the bar, so that they lie over nothing that is pressed. */
export function Messages({ children }: PropsWithChildren) {
  const [messages, place] = antMessage.useMessage({
    maxCount: 1,
    top: 0,
    getContainer: () => document.getElementById('messages') ?? document.body,
  });
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
