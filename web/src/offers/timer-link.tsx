import { useState } from 'react';
import { toast } from 'sonner';
import { timerFaces, type After, type TimerFace } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { sentence } from '../app/api.ts';
import { useTimerLinkMutation } from './endpoints.ts';
import { Button, Dialog, Field, inputClass } from '../ui/index.tsx';
import { FaceGallery } from './face-parts.tsx';
import { FacePicture } from './face-picture.tsx';
import { AfterParts } from './after.tsx';
import { MomentField } from '../ui/moment-field.tsx';
import { ClockChangeNote } from '../ui/clock-change.tsx';
import { ZoneChoice } from '../ui/zone-choice.tsx';

/** A timer to a moment as the address of a picture, for a page or an email that is not ours. */
export function TimerLink({ zone: home, onClose }: { zone: string; onClose: () => void }) {
  const around = useAround(['style']);
  const [face, setFace] = useState<TimerFace>(timerFaces.Sheet);
  const [wall, setWall] = useState('');
  const [zone, setZone] = useState(home);
  const [after, setAfter] = useState<After>({ kind: 'zeros' });
  const [make, { data, error, reset }] = useTimerLinkMutation();
  if (!around) return null;
  const changed =
    <T,>(set: (v: T) => void) =>
    (v: T) => {
      reset();
      set(v);
    };
  return (
    <Dialog open onClose={onClose} title="Timer for a page" wide>
      <div className="grid grid-cols-[15rem_1fr] gap-5">
        <FaceGallery face={face} style={around.style} save={changed(setFace)} />
        <div className="flex flex-col gap-3">
          <FacePicture face={face} left={193_988} after={after} alt="How the timer looks" width={380} />
          <div className="grid grid-cols-[3fr_2fr] gap-3">
            <MomentField label="Counts to" wall={wall} save={changed(setWall)} />
            <ZoneChoice zone={zone} save={changed(setZone)} />
          </div>
          <ClockChangeNote zone={zone} wall={wall} />
          <AfterParts after={after} save={changed(setAfter)} />
          {error && (
            <p role="alert" className="font-semibold text-brick">
              {sentence(error)}
            </p>
          )}
          {data ? (
            <Field label="Address of the picture: drawn anew at every look">
              {(id) => (
                <span className="flex gap-2">
                  <input
                    id={id}
                    readOnly
                    value={data.address}
                    onFocus={(e) => e.target.select()}
                    className={inputClass}
                  />
                  <Button
                    onClick={() =>
                      void navigator.clipboard.writeText(data.address).then(() => toast.success('Copied.'))
                    }
                  >
                    Copy
                  </Button>
                </span>
              )}
            </Field>
          ) : (
            <div className="flex justify-end">
              <Button tone="main" disabled={wall === ''} onClick={() => void make({ face, wall, zone, after })}>
                Make its address
              </Button>
            </div>
          )}
        </div>
      </div>
    </Dialog>
  );
}
