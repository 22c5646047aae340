import { MirroredPicture } from '@/ui/picture/mirrored';

export default function Page() {
  return <MirroredPicture />;
}
