import { Box } from '@chakra-ui/react'
import { useState } from 'react'

import { useIsLead } from '../../api/project'
import { Act, QuietAct, TextField } from '../../parts/controls'
import { Window } from '../../parts/Window'
import type { Standing } from './standing'

interface QuestionProps {
  standing: Standing
  onAsk: (question: string) => void
  onAnswer: (answer: string) => void
  onClose: () => void
}

/** Ask the lead about a sentence, answer, or withdraw the question. */
export function Question({ standing, onAsk, onAnswer, onClose }: QuestionProps) {
  const lead = useIsLead()
  const [question, setQuestion] = useState(standing.question)
  const [answer, setAnswer] = useState(standing.answer)
  const done = () => {
    const asked = question.trim()
    if (asked !== standing.question) onAsk(asked)
    else if (answer.trim() !== standing.answer) onAnswer(answer.trim())
    onClose()
  }
  const changed = question.trim() !== standing.question || answer.trim() !== standing.answer
  return (
    <Window
      title="Question to the lead"
      onClose={onClose}
      footer={
        <>
          {standing.question && (
            <QuietAct
              onClick={() => {
                onAsk('')
                onClose()
              }}
            >
              withdraw the question
            </QuietAct>
          )}
          <Act onClick={done} disabled={!changed}>
            {standing.question && question.trim() === standing.question && lead ? 'answer' : 'ask'}
          </Act>
        </>
      }
    >
      <TextField
        label="question"
        lines={3}
        autoFocus
        value={question}
        onChange={setQuestion}
        help="The sentence is shown to the lead under “with a question”. You can sign it all the same."
      />
      {standing.question && lead && (
        <TextField label="answer" lines={3} value={answer} onChange={setAnswer} help="A new question takes the old answer away." />
      )}
      {standing.answer && !lead && (
        <Box mb="3">
          <b>Answer:</b> {standing.answer}
        </Box>
      )}
    </Window>
  )
}
