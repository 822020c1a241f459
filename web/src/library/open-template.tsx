import { useEffect } from 'react';
import { useNavigate, useParams } from 'react-router';
import { sentence } from '../app/api.ts';
import { useOpenTemplateMutation } from '../composer/endpoints.ts';
import { Empty } from '../ui/index.tsx';

/** A template's address: leads on to the composer, which shows the draft that it is written in. */
export function OpenTemplate() {
  const id = useParams().id as string;
  const [open, { data, error }] = useOpenTemplateMutation();
  const navigate = useNavigate();
  useEffect(() => void open(id), [open, id]);
  useEffect(() => {
    if (data) void navigate(`/library/templates/drafts/${data.sequence}/${data.step}`, { replace: true });
  }, [data, navigate]);
  return error ? <Empty text={sentence(error)} /> : <p className="p-8 text-ink-2">Opening the template …</p>;
}
