import { Workplace } from '@/ui/shell/workplace';

export default function Page() {
  return <Workplace />;
}
